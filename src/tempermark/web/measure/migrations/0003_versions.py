import django.db.models.deletion
from django.db import migrations, models

# The sequence belongs to no table, so that emptying a table does not begin it again.
NUMBER = """
CREATE SEQUENCE measure_survey_version;
CREATE FUNCTION surveys_have_changed(element bigint) RETURNS void LANGUAGE sql AS $$
  INSERT INTO measure_surveyversion (element_id, number)
    VALUES (element, nextval('measure_survey_version'))
    ON CONFLICT (element_id) DO UPDATE SET number = EXCLUDED.number;
$$;
CREATE FUNCTION survey_has_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP <> 'INSERT' THEN
    PERFORM surveys_have_changed(OLD.element_id);
  END IF;
  IF TG_OP = 'INSERT' OR (TG_OP = 'UPDATE' AND NEW.element_id <> OLD.element_id) THEN
    PERFORM surveys_have_changed(NEW.element_id);
  END IF;
  RETURN NULL;
END $$;
CREATE TRIGGER measure_survey_version AFTER INSERT OR DELETE OR UPDATE ON measure_survey
  FOR EACH ROW EXECUTE FUNCTION survey_has_changed();
CREATE FUNCTION instrument_has_changed() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM surveys_have_changed(element_id) FROM (
    SELECT DISTINCT element_id FROM measure_survey
      WHERE instrument_id = NEW.id ORDER BY element_id
  ) AS read_with;
  RETURN NULL;
END $$;
CREATE TRIGGER measure_instrument_version AFTER UPDATE ON measure_instrument FOR EACH ROW
  WHEN (OLD.name IS DISTINCT FROM NEW.name) EXECUTE FUNCTION instrument_has_changed();
INSERT INTO measure_surveyversion (element_id, number)
  SELECT element_id, nextval('measure_survey_version')
  FROM (SELECT DISTINCT element_id FROM measure_survey) AS surveyed;
"""
NUMBER_NO_MORE = """
DROP TRIGGER measure_instrument_version ON measure_instrument;
DROP FUNCTION instrument_has_changed();
DROP TRIGGER measure_survey_version ON measure_survey;
DROP FUNCTION survey_has_changed();
DROP FUNCTION surveys_have_changed(bigint);
DROP SEQUENCE measure_survey_version;
"""


class Migration(migrations.Migration):

    dependencies = [
        ('measure', '0002_memory'),
        ('presses', '0002_moments'),
    ]

    operations = [
        migrations.CreateModel(
            name='SurveyVersion',
            fields=[
                ('element', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='+', serialize=False, to='presses.element')),
                ('number', models.BigIntegerField()),
            ],
        ),
        migrations.RunSQL(NUMBER, NUMBER_NO_MORE),
    ]
