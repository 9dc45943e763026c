"""`./tempermark bench [NAME …]`."""

import importlib
import sys

from benchmarks import machine

NAMES = (
    "commands",
    "measure",
    "adaptive",
    "heat",
    "trace",
    "search",
    "plan",
    "entry",
    "setting",
    "live",
    "pages",
    "logbook",
    "benches",
    "load",
    "scale",
)
# Minutes long, or in need of a running demo: only when named.
BY_NAME_ONLY = NAMES[NAMES.index("search") :]
# A benchmark that goes on in another file, for minutes: when named.
CONTINUED = {"adaptive": ("histories", "pressure_histories")}


def main(names: list[str]) -> int:
    """Run the named benchmarks, or all."""
    unknown = [n for n in names if n not in NAMES]
    if unknown:
        print(f"No benchmark is called {unknown[0]}. There are: {', '.join(NAMES)}.")
        return 2
    for name in names or [n for n in NAMES if n not in BY_NAME_ONLY]:
        print(f"== {name}")
        begun = machine.ticks()
        importlib.import_module(f"benchmarks.{name}").run()
        for more in CONTINUED.get(name, ()) if names else ():
            importlib.import_module(f"benchmarks.{more}").run()
        machine.say_taken(begun)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
