from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("live", "0001_initial")]

    operations = [
        migrations.RenameField("loggerkey", "made_at", "created_at"),
        migrations.RenameField("loggerkey", "made_by", "created_by"),
        migrations.AlterModelOptions("loggerkey", {"ordering": ["-created_at", "-pk"]}),
    ]
