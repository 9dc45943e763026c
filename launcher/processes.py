"""Which processes a room has, and how they are begun."""

import subprocess

from launcher import lan, server
from launcher.supervisor import Supervisor


def begin_processes(
    supervisor: Supervisor,
    room: str,
    env: dict[str, str],
    port: int,
    shared: lan.Lan | None,
    names: list[str],
) -> None:
    """Begin a room's processes; on the shop's network with a certificate that is kept fresh."""
    held = [] if shared is None else [shared]
    supervisor.begin("web server", lambda: _web(room, port, env, *held))
    supervisor.begin("worker", lambda: server.start_worker(room, env))
    if shared is None:
        return
    if room == "serve":
        supervisor.begin("hand-out", lambda: lan.start_hand_out(port, held[0]))

    def renewed(fresh: lan.Lan) -> None:
        held[0] = fresh
        supervisor.begin_again("web server")
        supervisor.begin_again("hand-out")

    supervisor.chores.append(lan.Renewal(names, shared, renewed))


def _web(
    room: str, port: int, env: dict[str, str], shared: lan.Lan | None = None
) -> subprocess.Popen[bytes]:
    more = {} if shared is None else shared.environment(port)
    if room != "serve":
        # Tablets know the authority already; nothing hands it out beside this one.
        more.pop("TEMPERMARK_LAN_AUTHORITY", None)
    return server.start(room, port, env | more, shared)
