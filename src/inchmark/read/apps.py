from django.apps import AppConfig


class ReadConfig(AppConfig):
    name = "inchmark.read"
    label = "read"

    def ready(self) -> None:
        from inchmark.read import providers

        providers.register()
