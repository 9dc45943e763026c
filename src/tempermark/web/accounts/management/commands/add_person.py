"""Add a person to your own room."""

import getpass
import sys
from typing import Any

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.core.management import BaseCommand, CommandError
from django.core.management.base import CommandParser

from tempermark.web.accounts.models import Role, User


class Command(BaseCommand):
    """`add_person NAME --role lead`; the password is asked for, or read from a pipe."""

    help = "Add a person who may sign in."

    def add_arguments(self, parser: CommandParser) -> None:
        """Name and role."""
        parser.add_argument("name")
        parser.add_argument("--role", choices=Role.values, default=Role.TECHNICIAN)

    def handle(self, *args: Any, **options: Any) -> None:
        """Make the person, or say what is wrong."""
        if User.objects.filter(username=options["name"]).exists():
            raise CommandError(f"{options['name']} is there already.")
        password = getpass.getpass() if sys.stdin.isatty() else sys.stdin.readline().strip()
        try:
            validate_password(password)
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        User.objects.create_user(options["name"], password=password, role=options["role"])
        self.stdout.write(f"{options['name']} may sign in as {options['role']}.")
