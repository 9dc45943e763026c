"""How gunicorn runs the room's web workers."""

import ctypes
import os
import signal
import subprocess
import sys
from typing import Any

from uvicorn_worker import UvicornWorker

_PR_SET_PDEATHSIG = 1
# A thread that waits for Python's lock asks for it after so long. Every answer of the database
# ends in such a wait: beside a page that is drawn, ten of them at Python's own 5 ms are 50 ms.
SWITCH_INTERVAL_S = 0.0005


class Worker(UvicornWorker):
    """Believes no header about who asks: kit/serving/edge.py does, those of named proxies."""

    CONFIG_KWARGS = {**UvicornWorker.CONFIG_KWARGS, "proxy_headers": False}


def on_starting(server: Any) -> None:
    """A master whose version and database do not belong together begins no worker."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tempermark.web.settings.production")
    done = subprocess.run([sys.executable, "-m", "django", "must_fit"], capture_output=True)
    if done.returncode:
        sys.exit(done.stderr.decode(errors="replace").strip()[-400:])


def post_fork(server: Any, worker: Any) -> None:
    """A worker changes threads often, and ends with its master, however that ends: it must not hold
    the port.
    """
    sys.setswitchinterval(SWITCH_INTERVAL_S)
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
    if os.getppid() != server.pid:
        os._exit(0)
