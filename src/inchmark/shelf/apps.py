from django.apps import AppConfig


class ShelfConfig(AppConfig):
    name = "inchmark.shelf"
    label = "shelf"
