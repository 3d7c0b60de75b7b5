from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    name = "inchmark.upkeep"
    label = "upkeep"
