from django.apps import AppConfig


class WalkConfig(AppConfig):
    name = "inchmark.walk"
    label = "walk"
