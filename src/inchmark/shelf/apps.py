from django.apps import AppConfig


class ShelfConfig(AppConfig):
    name = "inchmark.shelf"
    label = "shelf"

    def ready(self) -> None:
        from inchmark.shelf import providers

        providers.register()
