"""Print the link with which a room's first lead signs up."""

import io
from typing import Any

import segno
from django.core.management import BaseCommand
from django.core.management.base import CommandParser
from django.urls import reverse

from tempermark.web.accounts.sign_up import first_lead_token


class Command(BaseCommand):
    """`first_link --base URL`; prints nothing where the room has a lead."""

    help = "Print a one-time link for the first lead, and its QR code."

    def add_arguments(self, parser: CommandParser) -> None:
        """The address at which the room is reached."""
        parser.add_argument("--base", required=True)

    def handle(self, *args: Any, **options: Any) -> None:
        """The link, in words and as a code."""
        token = first_lead_token()
        if token is None:
            return
        address = options["base"].rstrip("/") + reverse("accounts:sign-up", args=[token])
        code = io.StringIO()
        segno.make(address, error="l").terminal(out=code, compact=True, border=2)
        self.stdout.write(f"Open this to begin: {address}")
        self.stdout.write("It works once, within a day. The code holds the same address:")
        self.stdout.write(code.getvalue())
