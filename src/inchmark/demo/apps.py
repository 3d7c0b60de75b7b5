from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "inchmark.demo"
    label = "demo"
