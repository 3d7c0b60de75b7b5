from django.apps import AppConfig


class PagesConfig(AppConfig):
    name = "inchmark.pages"
    label = "pages"
