from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('run', '0012_kept_counts'),
    ]

    operations = [
        migrations.AddIndex(
            model_name='testpress',
            index=models.Index(condition=models.Q(('withdrawn_at', None)), fields=['recipe'], name='test_press_of_version'),
        ),
    ]
