"""How gunicorn runs the room's web workers."""

import ctypes
import os
import signal
from typing import Any

from uvicorn_worker import UvicornWorker

_PR_SET_PDEATHSIG = 1


class Worker(UvicornWorker):
    """Believes no header about who asks: kit/edge.py does, from the proxies that were named."""

    CONFIG_KWARGS = {**UvicornWorker.CONFIG_KWARGS, "proxy_headers": False}


def post_fork(server: Any, worker: Any) -> None:
    """A worker ends with its master, however that ends: it must not hold the port."""
    ctypes.CDLL(None, use_errno=True).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
    if os.getppid() != server.pid:
        os._exit(0)
