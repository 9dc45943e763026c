"""What art may weigh: bounds on bytes, pixels, pages and work, so that no file stops the shop."""

MOST_BYTES = 25 * 1024 * 1024
# A sheet of A3+ at 400 dpi, or a panel of 1.5 m × 0.5 m at 150 dpi, stays below it.
MOST_PIXELS = 45_000_000
MOST_PAGES = 50
# A drawing: its text, its elements, and its elements once every repeated part is counted.
MOST_DRAWING_BYTES = 5 * 1024 * 1024
MOST_ELEMENTS, MOST_EXPANDED = 50_000, 200_000
# One picture is drawn within this time and memory, in a process of its own.
MOST_SECONDS, MOST_MEMORY_BYTES = 20, 3 * 1024**3
# A side as printed, mm: longer than any panel of the trade.
LONGEST_MM = 5000.0
