from django.apps import AppConfig


class PlanConfig(AppConfig):
    name = "inchmark.plan"
    label = "plan"

    def ready(self) -> None:
        from inchmark.plan import providers

        providers.register()
