from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [("recipes", "0001_initial")]

    operations = [
        migrations.RenameField("recipeversion", "made_at", "created_at"),
        migrations.RenameField("recipeversion", "made_by", "created_by"),
    ]
