"""The room: presses, their elements, and what state they are in."""
