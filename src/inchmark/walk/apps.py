from django.apps import AppConfig


class WalkConfig(AppConfig):
    name = "inchmark.walk"
    label = "walk"

    def ready(self) -> None:
        from inchmark.walk import providers

        providers.register()
