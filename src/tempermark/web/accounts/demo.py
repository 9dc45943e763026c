"""The made-up people of the demo; their password is public on purpose."""

DEMO_PASSWORD = "regatta-week-demo"  # noqa: S105
# name, given name, role
DEMO_PEOPLE = (
    ("isla", "Isla", "technician"),
    ("maren", "Maren", "lead"),
    ("tomke", "Tomke", "clerk"),
)
