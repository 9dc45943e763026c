"""How gunicorn runs the room's web workers."""

import ctypes
import gc
import os
import shutil
import signal
import subprocess
import sys
import tempfile
from contextlib import suppress
from typing import Any

from uvicorn_worker import UvicornWorker

_PR_SET_PDEATHSIG = 1
# Where workers leave for each other what they have computed (measure/known/shared.py).
_SHARED = "TEMPERMARK_SHARED"


class Worker(UvicornWorker):
    """Believes no header about who asks: kit/serving/edge.py does, those of named proxies."""

    CONFIG_KWARGS = {**UvicornWorker.CONFIG_KWARGS, "proxy_headers": False}


def on_starting(server: Any) -> None:
    """A master whose version and database do not belong together begins no worker."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tempermark.web.settings.production")
    done = subprocess.run([sys.executable, "-m", "django", "must_fit"], capture_output=True)
    if done.returncode:
        sys.exit(done.stderr.decode(errors="replace").strip()[-400:])
    with suppress(OSError):
        # Nobody else may read or write there; without it workers share nothing, and are right.
        os.environ[_SHARED] = tempfile.mkdtemp(prefix="tempermark-")


def on_exit(server: Any) -> None:
    """What the workers shared ends with their master."""
    folder = os.environ.pop(_SHARED, None)
    if folder:
        shutil.rmtree(folder, ignore_errors=True)


def post_fork(server: Any, worker: Any) -> None:
    """A worker ends with its master, however that ends: it must not hold the port."""
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
    if os.getppid() != server.pid:
        os._exit(0)


def post_worker_init(worker: Any) -> None:
    """What lasts as long as a worker is not looked through for garbage: that took a tenth of a
    second each time, in the midst of some request.
    """
    gc.collect()
    gc.freeze()
