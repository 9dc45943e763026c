import django.db.models.deletion
from django.db import migrations, models

REFUSE = """
CREATE FUNCTION log_is_append_only() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION 'the log is append-only: correct an entry by a new one';
END $$;
CREATE TRIGGER run_logentry_append_only BEFORE UPDATE OR DELETE ON run_logentry
  FOR EACH ROW EXECUTE FUNCTION log_is_append_only();
"""
ALLOW = """
DROP TRIGGER run_logentry_append_only ON run_logentry;
DROP FUNCTION log_is_append_only();
"""


class Migration(migrations.Migration):
    dependencies = [("run", "0006_label_pieces")]
    operations = [
        migrations.AlterField(
            model_name="testpress",
            name="piece",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT,
                related_name="presses",
                to="run.pressedpiece",
            ),
        ),
        migrations.RunSQL(REFUSE, ALLOW),
    ]
