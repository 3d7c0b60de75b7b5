from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "inchmark.people"
    label = "people"
