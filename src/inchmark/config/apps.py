from django.apps import AppConfig


class ConfigConfig(AppConfig):
    name = "inchmark.config"
    label = "config"

    def ready(self) -> None:
        from django.conf import settings

        from inchmark.config import checks
        from inchmark.config.standing_back import workers_stand_back

        assert checks.check_exposure  # importing it registers it
        if settings.ROLE == "worker":
            workers_stand_back()
