from django.apps import AppConfig


class StudiesConfig(AppConfig):
    name = "inchmark.studies"
    label = "studies"
