"""A heated platen as nine probes feel it: warm-up, cycling, cold blanks, and probes that fail.

One lumped plate with a heater switched by a controller that sees the plate late; every probe
stands at a fixed distance from the plate's mean. Figures are of a usual 400 × 500 mm press.
"""

from dataclasses import dataclass, field

import numpy as np

AMBIENT_C = 22.0
# 1.8 kW on 5.4 kJ/K (6 kg of aluminium) warms 20 K a minute; a third of it holds 195 °C.
HEATER_W, CAPACITY_J_K, LOSS_W_K = 1800.0, 5400.0, 3.2
SENSOR_LAG_S = 6.0
SWITCHES_WITHIN_C = 0.6
# A cold blank takes heat at this rate at first, less as it warms.
BLANK_W_K, BLANK_J_K = 26.0, 420.0
NOISE_C, STEP_C = 0.05, 0.1
# The margins are cooler than the middle; one corner more so.
DISTANCE_C = np.array([-2.6, -0.8, -1.9, -0.6, 2.9, 0.4, -1.4, 0.3, -5.1])


@dataclass(frozen=True)
class Story:
    """What happens; times in s from the start. None: it does not."""

    first_loading_s: float | None = 480.0
    loading_every_s: float = 150.0
    dwell_s: float = 45.0
    dropout_chance_per_s: float = 0.01
    dropout_s: float = 3.0
    stuck_channel: int | None = 6
    stuck_from_s: float = 600.0


@dataclass
class HeatedPlaten:
    """Steps in time; `sample` gives what the nine channels show."""

    set_c: float
    plate_c: float
    rng: np.random.Generator
    story: Story = field(default_factory=Story)
    time_s: float = 0.0
    heating: bool = True
    sensed_c: float = field(init=False)
    blank_c: float | None = None
    silent_until_s: np.ndarray = field(init=False)
    repeated_c: float | None = None

    def __post_init__(self) -> None:
        """The controller's sensor starts at the plate's temperature."""
        self.sensed_c = self.plate_c
        self.silent_until_s = np.zeros(len(DISTANCE_C))

    def step(self, step_s: float) -> None:
        """Let the plate, its controller and a blank go on for a moment (explicit Euler)."""
        self.time_s += step_s
        self.sensed_c += (self.plate_c - self.sensed_c) * step_s / SENSOR_LAG_S
        if self.sensed_c > self.set_c + SWITCHES_WITHIN_C:
            self.heating = False
        elif self.sensed_c < self.set_c - SWITCHES_WITHIN_C:
            self.heating = True
        flow_w = HEATER_W * self.heating - LOSS_W_K * (self.plate_c - AMBIENT_C)
        flow_w -= self._into_blank(step_s)
        self.plate_c += flow_w * step_s / CAPACITY_J_K

    def _into_blank(self, step_s: float) -> float:
        story = self.story
        if story.first_loading_s is None or self.time_s < story.first_loading_s:
            return 0.0
        if (self.time_s - story.first_loading_s) % story.loading_every_s > story.dwell_s:
            self.blank_c = None
            return 0.0
        self.blank_c = AMBIENT_C if self.blank_c is None else self.blank_c
        flow_w = BLANK_W_K * (self.plate_c - self.blank_c)
        self.blank_c += flow_w * step_s / BLANK_J_K
        return flow_w

    def sample(self, step_s: float) -> list[float | None]:
        """What the channels show now, to the logger's step; None where one drops out."""
        story = self.story
        rise = (self.plate_c - AMBIENT_C) / (195.0 - AMBIENT_C)
        shown = self.plate_c + DISTANCE_C * rise + self.rng.normal(0, NOISE_C, len(DISTANCE_C))
        drops = self.rng.random(len(shown)) < story.dropout_chance_per_s * step_s
        self.silent_until_s[drops] = self.time_s + story.dropout_s
        figures: list[float | None] = [round(round(v / STEP_C) * STEP_C, 1) for v in shown]
        if story.stuck_channel is not None and self.time_s >= story.stuck_from_s:
            if self.repeated_c is None:
                self.repeated_c = figures[story.stuck_channel]
            figures[story.stuck_channel] = self.repeated_c
        return [
            None if self.time_s < until else figure
            for figure, until in zip(figures, self.silent_until_s, strict=True)
        ]
