"""Make a database ready: tables, static files, the demo study once, and a sign-in link."""

from __future__ import annotations

from argparse import ArgumentParser
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connection
from django.db.migrations.executor import MigrationExecutor
from django.urls import reverse

from inchmark.demo.services import load_demo
from inchmark.people.services import make_sign_in_link, make_user


class Command(BaseCommand):
    """`manage.py prepare`, which `./start` calls."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Take the address for the link, and whether to leave the demo out."""
        parser.add_argument("--base", default="http://127.0.0.1:8000")
        parser.add_argument("--no-demo", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        """Do only what is not done yet, so that a second start is quick."""
        self._migrate()
        self._collect()
        user = make_user("demo")
        if not options["no_demo"]:
            load_demo(user)
        link = options["base"].rstrip("/") + reverse(
            "people:sign-in-link", args=[make_sign_in_link(user)]
        )
        self.stdout.write(f"\nSign in once with\n  {link}\n")

    def _migrate(self) -> None:
        executor = MigrationExecutor(connection)
        if executor.migration_plan(executor.loader.graph.leaf_nodes()):
            self.stdout.write("Making the tables …")
            call_command("migrate", verbosity=0)

    def _collect(self) -> None:
        """Collect static files if any of ours is newer than the last collection."""
        if "Manifest" not in settings.STORAGES["staticfiles"]["BACKEND"]:
            return
        stamp = Path(settings.STATIC_ROOT) / "staticfiles.json"
        made = stamp.stat().st_mtime if stamp.exists() else 0.0
        ours = Path(settings.SOURCE).glob("*/static/**/*")
        if any(path.stat().st_mtime > made for path in ours):
            call_command("collectstatic", interactive=False, verbosity=0, ignore_patterns=["*.py"])
