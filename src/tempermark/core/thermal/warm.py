"""`python -m tempermark.core.thermal.warm`: compile the kernel now, so that no one waits for it."""

import numpy as np

from tempermark.core.thermal.solver.closing import Closing, press
from tempermark.core.thermal.solver.stack import Layer


def main() -> None:
    """A short closing calls everything that is compiled."""
    layer = Layer(1.0, 0.1, 400, 1300, moisture_fraction=0.05)
    places = np.array([100.0])
    press(Closing([layer, layer], 20.0, 1.0, places, places, contacts=np.zeros(1)))


if __name__ == "__main__":
    main()
