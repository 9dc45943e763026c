"""The demo: loopback over plain HTTP, with the demo sign-ins shown."""

from tempermark.web.settings.base import *  # noqa: F403  (settings files are layered so)

DEMO = True
