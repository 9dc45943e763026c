"""What `serve` and `practice` are given."""

import argparse
import os
from pathlib import Path

from launcher import network, server
from launcher.say import Stop

# What other servers are opened to a network with.
OUTSIDE = ("--host", "--bind", "--address", "--listen")


def serve_arguments(arguments: list[str]) -> tuple[int, list[str] | None]:
    """The port, and more names on the shop's network, None without one. Raises Stop."""
    asked = argparse.ArgumentParser(prog="./tempermark serve", add_help=False, allow_abbrev=False)
    asked.add_argument("--port", type=int, default=server.FIRST_PORT)
    asked.add_argument("--lan", action="store_true")
    asked.add_argument("--name", action="append", default=[])
    given, unknown = asked.parse_known_args(arguments)
    if unknown and unknown[0].partition("=")[0] in OUTSIDE:
        raise Stop(
            "Without HTTPS the room answers on this machine alone: passwords would cross the "
            "network readable by anybody. Take --lan, or put HTTPS in front (README, "
            "TEMPERMARK_HTTPS)."
        )
    if unknown:
        raise Stop(f"serve knows --port NUMBER, --lan and --name NAME, not {unknown[0]}.")
    if not 1024 <= given.port < 65535:
        raise Stop("A port lies between 1024 and 65534.")
    wrong = [name for name in given.name if not network.is_name(name)]
    if wrong:
        raise Stop(f"{wrong[0]} is no name of a machine and no address.")
    if given.name and not given.lan:
        raise Stop("--name is for the shop's network: add --lan.")
    return given.port, given.name if given.lan else None


def practice_arguments(arguments: list[str]) -> list[str] | None:
    """More names on the shop's network, None without one; the room that it was opened from goes
    into the environment. Raises Stop.
    """
    asked = argparse.ArgumentParser(prog="practice", add_help=False, allow_abbrev=False)
    asked.add_argument("--from", dest="opened_from", default="")
    asked.add_argument("--lan", action="store_true")
    asked.add_argument("--name", action="append", default=[])
    given, unknown = asked.parse_known_args(arguments)
    if unknown or not all(network.is_name(name) for name in given.name):
        raise Stop("practice knows only --from ADDRESS, --lan, --name NAME and --discard.")
    if given.opened_from:
        os.environ["TEMPERMARK_PRACTICE_OF"] = given.opened_from
    return given.name if given.lan else None


def chosen_tests(arguments: list[str]) -> list[str]:
    """What pytest is given: without a choice of its own all but the long ones, with `--all` all."""
    rest = [argument for argument in arguments if argument != "--all"]
    is_chosen = any(a[:2] in ("-m", "-k") or Path(a.partition("::")[0]).exists() for a in rest)
    return rest if is_chosen or "--all" in arguments else ["-m", "not long", *rest]
