from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "inchmark.people"
    label = "people"

    def ready(self) -> None:
        from inchmark.people.services import sessions

        assert sessions.__name__  # importing it is what connects it
