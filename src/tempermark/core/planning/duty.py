"""Duty: how many people are there when, and what that does to a run's times.

Rule: while nobody is there, runs pause between two loads and go on afterwards.
"""

from dataclasses import dataclass

# Times that differ by less are the same, minutes.
SAME_TIME_MIN = 1e-6


@dataclass(frozen=True)
class DutySpan:
    """So many people from one minute to another."""

    from_min: float
    to_min: float
    people: int


@dataclass(frozen=True)
class Hands:
    """Who is there: spans in order, without gaps, the first from minute 0; after the last of them,
    those of the last span that has people stay until all is done.
    """

    spans: tuple[DutySpan, ...]

    @property
    def closes_min(self) -> float:
        """When (min) the hours end."""
        return max((span.to_min for span in self.spans if span.people), default=0.0)

    @property
    def opens_min(self) -> float:
        """When (min) the first person is there."""
        return min((span.from_min for span in self.spans if span.people), default=0.0)

    @property
    def most_people(self) -> int:
        return max((span.people for span in self.spans), default=0)

    @property
    def pauses(self) -> list[DutySpan]:
        """Spans between the first and the last person in which nobody is there."""
        return [
            span
            for span in self.spans
            if not span.people and self.opens_min < span.to_min <= self.closes_min
        ]

    @property
    def short_spans(self) -> list[DutySpan]:
        """Spans with some people, but not the most that there ever are."""
        return [span for span in self.spans if 0 < span.people < self.most_people]

    def people_at(self, minute: float) -> int:
        """How many are there at a minute (min); in a pause those who come back after it."""
        later = [span for span in self.spans if span.people and span.to_min > minute]
        if later:
            return later[0].people
        return next((span.people for span in reversed(self.spans) if span.people), 0)

    def begun(self, minute: float) -> float:
        """The first minute (min) from this one on at which a run can begin."""
        minute = max(minute, self.opens_min)
        for pause in self.pauses:
            if pause.from_min - SAME_TIME_MIN <= minute < pause.to_min:
                minute = pause.to_min
        return minute

    def ended(self, start_min: float, run_min: float) -> float:
        """When (min) a run of so many minutes ends that begins at a minute."""
        end = start_min + run_min
        for pause in self.pauses:
            if start_min < pause.from_min < end - SAME_TIME_MIN:
                end += pause.to_min - pause.from_min
        return end
