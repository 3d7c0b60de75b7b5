from django.apps import AppConfig


class WorkbenchConfig(AppConfig):
    name = "inchmark.workbench"
    label = "workbench"
