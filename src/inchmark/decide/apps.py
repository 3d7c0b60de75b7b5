from django.apps import AppConfig


class DecideConfig(AppConfig):
    name = "inchmark.decide"
    label = "decide"
