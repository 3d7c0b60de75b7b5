from django.apps import AppConfig


class StudiesConfig(AppConfig):
    name = "inchmark.studies"
    label = "studies"

    def ready(self) -> None:
        from inchmark.studies.audit import record_with_change
        from inchmark.studies.services import on_change

        on_change(record_with_change)
