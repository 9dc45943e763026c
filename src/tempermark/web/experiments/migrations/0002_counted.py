from django.db import migrations

# What belongs to an experiment is left aside in the yields: its presses are counted again.
NOTE = """
CREATE FUNCTION experiment_is_to_be_counted() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP <> 'INSERT' THEN
    INSERT INTO run_countchange (pressed_at) SELECT DISTINCT pressed_at FROM run_testpress
      WHERE id = OLD.test_press_id OR run_id = OLD.run_id;
  END IF;
  IF TG_OP <> 'DELETE' THEN
    INSERT INTO run_countchange (pressed_at) SELECT DISTINCT pressed_at FROM run_testpress
      WHERE id = NEW.test_press_id OR run_id = NEW.run_id;
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER experiments_plannedpress_counted
  AFTER INSERT OR DELETE OR UPDATE OF test_press_id, run_id ON experiments_plannedpress
  FOR EACH ROW EXECUTE FUNCTION experiment_is_to_be_counted();
"""
NOTE_NO_MORE = """
DROP TRIGGER experiments_plannedpress_counted ON experiments_plannedpress;
DROP FUNCTION experiment_is_to_be_counted();
"""


class Migration(migrations.Migration):
    dependencies = [("experiments", "0001_initial"), ("run", "0012_kept_counts")]
    operations = [migrations.RunSQL(NOTE, NOTE_NO_MORE)]
