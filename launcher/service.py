"""`./tempermark service`: the unit by which systemd starts the room with the machine."""

import shlex

from launcher import paths

UNIT = """# {root}/tempermark service > /etc/systemd/system/tempermark.service
# then: systemctl daemon-reload && systemctl enable --now tempermark
[Unit]
Description=Tempermark, the room's own server
After=network-online.target local-fs.target
Wants=network-online.target

[Service]
Type=exec
User={user}
WorkingDirectory={directory}
ExecStart={command}
# The launcher ends its web server, workers and database in order, and starts again what ends.
KillMode=mixed
KillSignal=SIGTERM
TimeoutStartSec=900
TimeoutStopSec=90
Restart=on-failure
RestartSec=5
NoNewPrivileges=yes
ProtectSystem=full
ProtectKernelTunables=yes
ProtectKernelModules=yes
ProtectControlGroups=yes
RestrictSUIDSGID=yes

[Install]
WantedBy=multi-user.target
"""


def unit(arguments: list[str]) -> str:
    """The unit for `serve` with more arguments, run by whoever owns the checkout."""
    owner = paths.ROOT.owner()
    words = [str(paths.ROOT / "tempermark"), "serve", *arguments]
    command = " ".join(_escaped(word) for word in words)
    return UNIT.format(
        root=shlex.quote(str(paths.ROOT)),
        user=owner,
        directory=str(paths.ROOT).replace("%", "%%"),
        command=command,
    )


def _escaped(word: str) -> str:
    """A word as systemd reads command lines."""
    text = word.replace("\\", "\\\\").replace('"', '\\"').replace("%", "%%").replace("$", "$$")
    return f'"{text}"' if " " in word else text
