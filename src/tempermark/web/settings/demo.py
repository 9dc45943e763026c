"""The demo, with its sign-ins shown: on loopback over plain HTTP, or over HTTPS as the room that
opened it.
"""

from tempermark.web.settings.base import *  # noqa: F403  (settings files are layered so)

DEMO = True
