from django.db import migrations

from tempermark.web.run.record.labels import code_of

BATCH = 2000


def label(apps, schema_editor):
    """Everything pressed until now was one piece each."""
    presses = apps.get_model("run", "TestPress")
    pieces = apps.get_model("run", "PressedPiece")
    while rows := list(presses.objects.filter(piece=None)[:BATCH]):
        new = pieces.objects.bulk_create(
            pieces(
                code=code_of(row.entry_key, length=12),
                created_at=row.pressed_at,
            )
            for row in rows
        )
        for row, piece in zip(rows, new, strict=True):
            row.piece = piece
        presses.objects.bulk_update(rows, ["piece"])


class Migration(migrations.Migration):
    dependencies = [("run", "0005_run_mode")]
    operations = [migrations.RunPython(label, migrations.RunPython.noop, elidable=False)]
