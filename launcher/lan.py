"""The room on the shop's network: its names, its certificate, renewed while it runs, and what hands
its authority out.
"""

import json
import subprocess
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from launcher import network, paths, server
from launcher.environment import clean_environment
from launcher.say import Stop, say, warn

# Names that mean something on this machine alone.
OURS_ALONE = ("127.0.0.1", "localhost")
# An address that came by itself may go by itself.
LOOK_EVERY_S = 3600.0
# As lan/authority.py renews.
RENEWED_BEFORE = timedelta(days=30)


@dataclass(frozen=True)
class Lan:
    """How the room answers the shop's network: its names, its certificate, its authority."""

    names: list[str]
    certificate: str
    key: str
    authority: str
    fingerprint: str
    lasts_until: str

    def environment(self, port: int) -> dict[str, str]:
        """What the page of tablets shows, as Django's settings read it."""
        # A tablet finds an address more surely than a name.
        rooms = [f"https://{name}:{port}/" for name in self.names if name not in OURS_ALONE]
        return {
            "TEMPERMARK_HOSTS": ",".join(self.names),
            "TEMPERMARK_LAN_ROOM": rooms[0],
            "TEMPERMARK_LAN_OTHERS": " ".join(rooms[1:]),
            "TEMPERMARK_LAN_AUTHORITY": f"http://{self.names[0]}:{port + 1}/",
            "TEMPERMARK_LAN_FINGERPRINT": self.fingerprint,
            "TEMPERMARK_LAN_LASTS_UNTIL": self.lasts_until,
        }

    def room(self, port: int) -> str:
        """Where tablets reach the room."""
        return self.environment(port)["TEMPERMARK_LAN_ROOM"]


def names_now(more_names: list[str]) -> list[str]:
    """Every name and address of this machine, those that were given among them."""
    found = [*network.addresses(), *more_names, *network.names(), *OURS_ALONE]
    return list(dict.fromkeys(found))


def ready(more_names: list[str]) -> Lan:
    """The certificate for every name and address of this machine, made or renewed."""
    names = names_now(more_names)
    if names == list(OURS_ALONE):
        raise Stop("This machine has no address on a network yet: connect it, or give --name.")
    made = subprocess.run(
        [str(paths.python()), "-m", "tempermark.web.lan.authority", str(paths.AUTHORITY), *names],
        env=clean_environment(),
        capture_output=True,
        text=True,
    )
    if made.returncode:
        raise Stop(f"The certificate could not be made: {made.stderr.strip()[-400:]}")
    return Lan(names, **json.loads(made.stdout))


def start_hand_out(port: int, lan: Lan) -> subprocess.Popen[bytes]:
    """Start what hands the authority to tablets that do not trust the room yet."""
    command = [str(paths.python()), "-m", "tempermark.web.lan.hand_out", str(port + 1)]
    command += [lan.authority, lan.fingerprint, lan.room(port)]
    return server.begun(command, clean_environment(), paths.LOCAL / "hand-out.log")


class Renewal:
    """Looks whether the certificate runs out or the machine has another address, makes it anew and
    says so to ``renewed``.
    """

    def __init__(self, more_names: list[str], lan: Lan, renewed: Callable[[Lan], None]) -> None:
        self.more_names, self.lan, self.renewed = more_names, lan, renewed
        self.due: float | None = None

    def look(self, now: float) -> None:
        """Look whether it is time; ``now`` by the steady clock."""
        if self.due is None:
            self.due = now + LOOK_EVERY_S
        if now < self.due:
            return
        self.due = now + LOOK_EVERY_S
        if not self._is_needed(datetime.now(UTC).date()):
            return
        try:
            self.lan = ready(self.more_names)
        except Stop as stop:
            warn(str(stop))
            return
        say("The certificate of the room was renewed.")
        self.renewed(self.lan)

    def _is_needed(self, today: date) -> bool:
        """An address that went away is no reason: the tablets that have another one stay."""
        lasts_until = date.fromisoformat(self.lan.lasts_until)
        if lasts_until - today <= RENEWED_BEFORE:
            return True
        return not set(names_now(self.more_names)) <= set(self.lan.names)

    def end(self) -> None:
        """Nothing is under way."""
