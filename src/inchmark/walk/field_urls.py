"""The address a pass is used at; it belongs to no study that its holder could see."""

from django.urls import path

from inchmark.walk.views import field

urlpatterns = [path("<str:secret>/", field.enter, name="field-enter")]
