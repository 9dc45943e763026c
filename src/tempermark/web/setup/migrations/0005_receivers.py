"""Recipes know the kind of blank they are for; lessons are of a receiving surface."""

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models
from django.utils.text import slugify

from tempermark.core.recipes.shipped import shipped_recipes


def know_blanks(apps, schema_editor):
    """Versions of shipped recipes get the kind of blank they were written for."""
    version = apps.get_model("setup", "RecipeVersion")
    for sheet in shipped_recipes():
        version.objects.filter(recipe__slug=slugify(sheet.name)).update(blank_like=sheet.blank)


def rename_subjects(apps, schema_editor):
    """A lesson on cloth stays; one on all coats is of none in particular."""
    lesson = apps.get_model("setup", "Lesson")
    lesson.objects.filter(subject="cloth").update(subject="polyester_cloth")
    lesson.objects.filter(subject="coat").update(
        subject="hard_coat", withdrawn_at=django.utils.timezone.now()
    )
    for row in lesson.objects.exclude(subject="heat"):
        row.values["correlation"] = row.values.pop("together", 0.0)
        row.save(update_fields=["values"])


class Migration(migrations.Migration):
    """Two fields, one table."""

    dependencies = [
        ("setup", "0004_learning"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]
    operations = [
        migrations.AddField(
            "recipeversion",
            "blank_like",
            models.CharField(
                blank=True,
                default="",
                help_text="code of the shipped kind of blank it is written for",
                max_length=40,
            ),
            preserve_default=False,
        ),
        migrations.RemoveConstraint("lesson", "lesson_subject_known"),
        migrations.AlterField(
            "lesson",
            "subject",
            models.CharField(help_text="a receiving surface, or heat", max_length=24),
        ),
        migrations.CreateModel(
            name="LessonRequest",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("subject", models.CharField(max_length=24)),
                ("note", models.CharField(blank=True, max_length=200)),
                ("at", models.DateTimeField(default=django.utils.timezone.now)),
                ("answered_at", models.DateTimeField(blank=True, null=True)),
                (
                    "by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={"ordering": ["-at", "-pk"]},
        ),
        migrations.AddConstraint(
            "lessonrequest",
            models.UniqueConstraint(
                condition=models.Q(("answered_at", None)),
                fields=("subject",),
                name="lesson_asked_once",
            ),
        ),
        migrations.RunPython(rename_subjects, migrations.RunPython.noop),
        migrations.RunPython(know_blanks, migrations.RunPython.noop),
    ]
