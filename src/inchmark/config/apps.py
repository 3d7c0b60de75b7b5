from django.apps import AppConfig


class ConfigConfig(AppConfig):
    name = "inchmark.config"
    label = "config"

    def ready(self) -> None:
        from inchmark.config import checks

        assert checks.check_exposure  # importing it registers it
