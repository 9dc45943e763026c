"""What the machine had for a benchmark: a virtual one may be given less than its cores."""

from pathlib import Path

# Columns of the first line of /proc/stat, in ticks, as proc(5) has them: user, nice, system, idle,
# iowait, irq, softirq, steal.
PARTS, STEAL = 8, 7
# From here on figures are those of another machine.
MUCH = 0.05


def ticks() -> list[int]:
    """What the cores did since the start, in ticks, by part."""
    line = Path("/proc/stat").read_text().splitlines()[0]
    return [int(part) for part in line.split()[1 : PARTS + 1]]


def taken_share(begun: list[int], ended: list[int]) -> float:
    """The share 0 to 1 of the cores that others on the same hardware had between two moments."""
    spent = [after - before for before, after in zip(begun, ended, strict=True)]
    return spent[STEAL] / max(sum(spent), 1)


def say_taken(begun: list[int]) -> None:
    """A line where so much was taken since a moment that figures do not speak for two cores."""
    share = taken_share(begun, ticks())
    if share >= MUCH:
        print(f"others on this hardware had {share:.0%} of its cores meanwhile: read times so")
