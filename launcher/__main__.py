"""`./tempermark WORD …`: what each word does."""

import os
import signal
import subprocess
import sys

from launcher import environment, lan, packages, paths, server, service, system
from launcher.arguments import chosen_tests, practice_arguments, serve_arguments
from launcher.backups import words as backups
from launcher.backups.log_archive import LogArchive, begin, with_archive
from launcher.backups.schedule import DailyBackup
from launcher.backups.settings import load as backup_settings
from launcher.cluster import Cluster, cluster, free_port, port_free
from launcher.keeper import Keeper
from launcher.pinned import pin
from launcher.processes import begin_processes
from launcher.rooms import alone, prepare_data
from launcher.say import Stop, say, warn
from launcher.supervisor import Supervisor
from launcher.upgrade import open_up_to_date

JSON_COMMANDS = (
    "reading",
    "survey",
    "setpoint",
    "pressure",
    "simulate",
    "window",
    "outcome",
    "bleed",
    "wrap",
    "mix",
    "cool",
    "diagnose",
    "search",
    "plan",
)
ROOMS = ("practice", "demo", "serve", "test")
HELP = """./tempermark WORD

  demo [--reset]     install what is missing, start the demo room, print its address
  serve [--port N] [--lan [--name NAME]…]
                     the same for your own room, with your own data, always at the same port;
                     --lan: over HTTPS for the tablets of the shop's network
  practice           a second demo room, as your own room opens it (--discard throws it away)
  test [ARGUMENTS]   run the tests (arguments go to pytest; --all: the long ones too)
  stop               stop what runs from this checkout
  manage [--demo] …  a management command on your own room's data, or the demo's
  bench [NAME]       time things, as ratios measured in one run
  simulate-logger --press NAME   a simulated logger on a press of the running demo
                     (--help lists what it can play)
  backup             back the room up now; --to FOLDER, --key RECIPIENTS, --daily HH:MM from now on
  restore FILE       bring a backup back; or --at MOMENT; what is replaced is kept (--list, --kept
                     NAME swaps it in again, --delete NAME)
  service            print a systemd unit that starts the room with the machine
  check              linters, types, layers, templates, migrations, built files

  reading | survey | setpoint | pressure | simulate | window | outcome | bleed | wrap |
  mix | cool | diagnose | search | plan
                     FILE|- [--batch]   (wrap: --svg OUT.svg writes the template at 1:1)
                     one JSON document in, one out (docs/formats)
"""


def main(arguments: list[str]) -> int:
    """Run one word; the exit code."""
    label, rest = (arguments[0], arguments[1:]) if arguments else ("help", [])
    if label in ("help", "-h", "--help"):
        print(HELP)
        return 0
    if label not in WORDS:
        warn(f"“{label}” is no word of tempermark.\n\n{HELP}")
        return 2
    try:
        return WORDS[label](rest)
    except Stop as stop:
        warn(str(stop))
        return 1
    except KeyboardInterrupt:
        return 130


def demo(arguments: list[str]) -> int:
    """The demo room."""
    unknown = [a for a in arguments if a != "--reset"]
    if unknown:
        raise Stop(f"demo knows only --reset, not {unknown[0]}.")
    return _room("demo", reset="--reset" in arguments)


def serve(arguments: list[str]) -> int:
    """The shop's own room."""
    return _room("serve", False, *serve_arguments(arguments))


def print_unit(arguments: list[str]) -> int:
    """The systemd unit of the room, with what `serve` would be given."""
    serve_arguments(arguments)
    print(service.unit(arguments), end="")
    return 0


def practice(arguments: list[str]) -> int:
    """A copy of the demo room beside a shop's own, which starts it from inside."""
    if arguments == ["--discard"]:
        server.stop_noted("practice")
        with alone():
            cluster("practice").remove()
        return 0
    return _room("practice", reset=False, names=practice_arguments(arguments))


def _room(room: str, reset: bool, port: int | None = None, names: list[str] | None = None) -> int:
    """A room until it is stopped; at a fixed port, or at the first free one; on loopback alone, or
    on the shop's network under more ``names``.
    """
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGHUP, _interrupt)
    database, supervisor = None, None
    try:
        with alone():
            packages.prepare()
            note = server.running(room)
            if note is None and room == "serve":
                pin()
            if note is None:
                # One that is alive but does not answer would keep its port, and its launcher
                # would stop the database under us.
                server.stop_noted(room)
            database, archive = _database(room)
            if note is None and port is not None and not port_free(port):
                raise Stop(
                    f"Port {port} is in use, by the demo or another program: end that, or take "
                    f"another port for good with `serve --port NUMBER`."
                )
            database_port, _ = database.start()
            begin(archive, database_port)
            shared = None if names is None else lan.ready(names)
            env = server.environment(room, database.environment(database_port))
            if note is None and room == "serve":
                opened = open_up_to_date(database, database_port, archive, backup_settings())
                env = opened.env
            elif note is None or reset:
                prepare_data(room, env, reset)
            if note is not None:
                database = None
                _greet(room, note["address"], "Already running", env)
                return 0
            web_port = port or free_port(server.FIRST_PORT, "Port")
            backups = [DailyBackup(room)] if room == "serve" else []
            supervisor = Supervisor(database, [Keeper(database), *backups])
            begin_processes(supervisor, room, env, web_port, shared, names or [])
        url = f"http://127.0.0.1:{web_port}" if shared is None else shared.room(web_port)
        _greet(room, url.rstrip("/"), "Ready", env)
        if shared is not None:
            say(f"Bring tablets in by {url}tablets/")
        _say_where(room, database)
        return supervisor.watch()
    except KeyboardInterrupt:
        say("\nStopping.")
        return 0
    finally:
        _stop(supervisor, database, room)


def _database(room: str) -> tuple[Cluster, LogArchive | None]:
    """The room's cluster; a shop's own keeps its log too."""
    if room != "serve":
        return cluster(room), None
    return with_archive(cluster(room), backup_settings())


def _say_where(room: str, database: Cluster) -> None:
    if room == "serve":
        say(f"Its data lie in {database.home}")
        say(backup_settings().summary())
    say("Ctrl-C stops it.")


def _interrupt(*_: object) -> None:
    raise KeyboardInterrupt


def _stop(supervisor: Supervisor | None, database: Cluster | None, room: str) -> None:
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, signal.SIG_IGN)
    if supervisor is not None:
        supervisor.end()
        server.state_file(room).unlink(missing_ok=True)
        if room == "serve":
            server.stop_noted("practice")
    if database is not None:
        database.stop()


def _greet(room: str, url: str, label: str, env: dict[str, str]) -> None:
    say(f"\n{label}: {url}")
    if room != "serve":
        ask = "from tempermark.web.accounts import demo as d; "
        ask += "print(d.DEMO_PEOPLE[0][0], d.DEMO_PASSWORD)"
        summary = subprocess.run(
            [str(paths.python()), "-c", ask],
            capture_output=True,
            text=True,
            env=environment.clean_environment(),
        )
        name, password = summary.stdout.split()
        say(f"Sign in as {name} with {password}")
    else:
        command = [str(paths.python()), "-m", "django", "first_link", "--base", url]
        subprocess.run(command, env=env, cwd=paths.ROOT)


def stop(arguments: list[str]) -> int:
    """Stop whatever runs from this checkout."""
    found = False
    for room in ROOMS:
        found |= server.stop_noted(room)
        if system.postgres_bin() is not None:
            found |= cluster(room).stop()
    say("Stopped." if found else "Nothing was running.")
    return 0


def manage(arguments: list[str]) -> int:
    """A Django management command on a room's data."""
    room = "demo" if "--demo" in arguments else "serve"
    rest = [a for a in arguments if a != "--demo"]
    if rest[:1] == ["migrate"] and server.noted(room) is not None:
        raise Stop("The room is open: stop it first, two versions never serve one database.")
    with alone():
        packages.prepare()
        database = cluster(room)
        port, ours = database.start()
    env = server.environment(room, database.environment(port))
    try:
        return subprocess.run([str(paths.python()), "-m", "django", *rest], env=env).returncode
    finally:
        if ours:
            database.stop()


def test(arguments: list[str]) -> int:
    """The tests, on a cluster of their own."""
    with alone():
        packages.prepare("dev")
        system.need_test_tools()
        database = cluster("test")
        port, ours = database.start()
    env = environment.clean_environment(
        DJANGO_SETTINGS_MODULE="tempermark.web.settings.test",
        OPENBLAS_NUM_THREADS="1",
        **database.environment(port),
    )
    # Once for all workers: each would compile the same at the same time.
    compiling = [str(paths.python()), "-m", "compileall", "-q", "-j", "0", "src", "launcher"]
    subprocess.run(compiling, env=env, cwd=paths.ROOT, stdout=subprocess.DEVNULL)
    # Two more than cores: a test that drives a browser waits for pages much of its time.
    count = str((os.cpu_count() or 2) + 2)
    workers = [] if any(a.startswith("-n") or "::" in a for a in arguments) else ["-n", count]
    chosen = chosen_tests(arguments)
    try:
        return subprocess.run(
            [str(paths.python()), "-m", "pytest", *workers, *chosen], env=env, cwd=paths.ROOT
        ).returncode
    finally:
        if ours:
            database.stop()


# Benchmarks that drive a browser at the demo's pages.
BY_BROWSER = frozenset({"entry", "setting"})


def bench(arguments: list[str]) -> int:
    """Benchmarks, with one thread for linear algebra as the web server has it."""
    packages.prepare("dev")
    if not BY_BROWSER.isdisjoint(arguments):
        system.need_browser()
    env = environment.clean_environment(OPENBLAS_NUM_THREADS="1")
    env["PYTHONPATH"] = os.pathsep.join([str(paths.ROOT / "src"), str(paths.ROOT)])
    return subprocess.run(
        [str(paths.python()), "-m", "benchmarks", *arguments], env=env, cwd=paths.ROOT
    ).returncode


def check(arguments: list[str]) -> int:
    """Everything CI checks besides the tests."""
    packages.prepare("dev")
    env = environment.clean_environment(
        DJANGO_SETTINGS_MODULE="tempermark.web.settings.test",
        PATH=f"{paths.environment() / 'bin'}{os.pathsep}{os.environ.get('PATH', '')}",
    )
    return subprocess.run([str(paths.ROOT / "tools" / "check")], env=env, cwd=paths.ROOT).returncode


def prepare(arguments: list[str]) -> int:
    """Install what the JSON commands need."""
    with alone():
        packages.prepare()
    return 0


def simulate_logger(arguments: list[str]) -> int:
    """A simulated logger that posts to the demo room's press, as a process of its own."""
    if "--press" not in arguments[:-1]:
        raise Stop("Which press? For example: ./tempermark simulate-logger --press Heron")
    at = arguments.index("--press")
    press, rest = arguments[at + 1], arguments[:at] + arguments[at + 2 :]
    note = server.running("demo")
    if note is None:
        raise Stop("The demo is not running. Start it in another window: ./tempermark demo")
    with alone():
        port, _ = cluster("demo").start()
    env = server.environment("demo", cluster("demo").environment(port))
    result = subprocess.run(
        [str(paths.python()), "-m", "django", "logger_key", press],
        env=env,
        capture_output=True,
        text=True,
    )
    if result.returncode:
        raise Stop(result.stderr.strip() or "The key could not be made.")
    env = environment.clean_environment(TEMPERMARK_LOGGER_KEY=result.stdout.strip())
    command = [str(paths.python()), "-m", "tempermark.stand_ins", note["url"], *rest]
    process = subprocess.Popen(command, env=env, cwd=paths.ROOT)
    signal.signal(signal.SIGTERM, lambda *_: process.send_signal(signal.SIGINT))
    while True:
        try:
            return process.wait()
        except KeyboardInterrupt:
            continue  # the logger heard it too, sends what is left and ends


WORDS = {
    "demo": demo,
    "serve": serve,
    "practice": practice,
    "test": test,
    "stop": stop,
    "manage": manage,
    "bench": bench,
    "check": check,
    "simulate-logger": simulate_logger,
    "backup": backups.backup,
    "restore": backups.restore_word,
    "service": print_unit,
    "prepare": prepare,
}

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
