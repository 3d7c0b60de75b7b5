"""The address at which a study is begun with logs; there is no study yet that it could lie under."""

from django.urls import path

from inchmark.walk.views import logs

urlpatterns = [path("", logs.begin, name="begin-with-logs")]
