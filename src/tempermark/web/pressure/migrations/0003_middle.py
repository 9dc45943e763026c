from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('pressure', '0002_memory'),
    ]

    operations = [
        migrations.AddField(
            model_name='pressuresurvey',
            name='middle_mm',
            field=models.FloatField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='pressuresurvey',
            name='middle_sd_mm',
            field=models.FloatField(blank=True, null=True),
        ),
    ]
