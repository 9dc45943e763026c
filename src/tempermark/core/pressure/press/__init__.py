"""What presses: line, knob, scale, hand, pad, wear."""
