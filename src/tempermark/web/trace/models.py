"""Fault cases: answers, checks, and the proof that closes them."""

from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from tempermark.web.run.models import TestPress


class FaultCase(models.Model):
    """One fault being traced from a test press; a piece has one open case at a time.

    Marks of the symptoms in `set_aside` belong to another fault, traced by itself.
    """

    test_press = models.ForeignKey(TestPress, on_delete=models.PROTECT, related_name="fault_cases")
    opened_at = models.DateTimeField()
    opened_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    facts = ArrayField(models.CharField(max_length=40), default=list)
    not_facts = ArrayField(models.CharField(max_length=40), default=list)
    # Symptoms asked after: seen too, or looked for and not found.
    also_seen = ArrayField(models.CharField(max_length=24), default=list)
    not_seen = ArrayField(models.CharField(max_length=24), default=list)
    set_aside = ArrayField(models.CharField(max_length=24), default=list)
    seems_normal = models.BooleanField(
        default=False, help_text="what is seen is no fault, as far as is known"
    )
    figures = models.JSONField(default=dict, help_text="answers in numbers, by key of the case")
    closed_at = models.DateTimeField(null=True, blank=True)
    closed_by = models.ForeignKey(
        "accounts.User", on_delete=models.PROTECT, related_name="+", null=True, blank=True
    )
    cause = models.CharField(max_length=28, blank=True)
    second_cause = models.CharField(max_length=28, blank=True, help_text="where two were at work")
    found_normal = models.BooleanField(default=False, help_text="what was seen was no fault")
    proof = models.ForeignKey(
        TestPress, on_delete=models.PROTECT, related_name="proves", null=True, blank=True
    )
    unproven_why = models.CharField(
        max_length=300, blank=True, help_text="why no piece could be pressed as proof"
    )
    closing_note = models.CharField(max_length=1000, blank=True)
    # What was thought before anything was asked or checked, and at the end: cause → probability.
    first_thought = models.JSONField(default=dict)
    last_thought = models.JSONField(default=dict)
    # The last check or answer in words, and what was thought before it.
    last_step = models.JSONField(default=dict)

    class Meta:
        ordering = ["-opened_at", "-pk"]
        indexes = [models.Index(fields=["-closed_at", "-id"], name="fault_case_closed")]
        constraints = [
            models.CheckConstraint(
                condition=Q(second_cause="") | ~Q(cause=""), name="fault_case_second_after_first"
            ),
            models.CheckConstraint(
                condition=Q(closed_at__isnull=True)
                | (Q(proof__isnull=False) & ~Q(cause=""))
                | (~Q(unproven_why="") & ~Q(cause=""))
                | (Q(found_normal=True) & ~Q(cause="")),
                name="fault_case_closed_with_proof",
            ),
            models.UniqueConstraint(
                fields=["test_press"],
                condition=Q(closed_at__isnull=True),
                name="fault_case_open_once",
            ),
        ]

    def __str__(self) -> str:
        return f"Case {self.pk}"

    @property
    def causes(self) -> tuple[str, ...]:
        """What was found to be at work; empty while the case is open."""
        return tuple(cause for cause in (self.cause, self.second_cause) if cause)

    def get_absolute_url(self) -> str:
        """The trace board."""
        return reverse("trace:case", args=[self.pk])


class CheckRecord(models.Model):
    """A check that was done, and how it came out."""

    case = models.ForeignKey(FaultCase, on_delete=models.CASCADE, related_name="checks")
    entry_key = models.UUIDField(unique=True)
    check_code = models.CharField(max_length=24)
    outcome = models.CharField(max_length=80, blank=True, help_text="empty: nothing found")
    unclear = models.BooleanField(default=False)
    done_at = models.DateTimeField()
    done_by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    taken_back_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.check_code}: {self.outcome or 'nothing found'}"


class KnowledgeChange(models.Model):
    """A shop's own number in the knowledge of faults; the newest of a part not withdrawn holds."""

    cause = models.CharField(max_length=28)
    part = models.CharField(
        max_length=8, choices=[("prior", "rate"), ("shows", "shows"), ("sign", "sign")]
    )
    key = models.CharField(max_length=120, blank=True)
    value = models.FloatField()
    why = models.CharField(max_length=300)
    at = models.DateTimeField(default=timezone.now)
    by = models.ForeignKey("accounts.User", on_delete=models.PROTECT, related_name="+")
    withdrawn_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-at", "-pk"]
        constraints = [
            models.CheckConstraint(
                condition=Q(value__gt=0) & Q(value__lt=1),
                name="knowledge_change_sound",
            )
        ]

    def __str__(self) -> str:
        return f"{self.cause}: {self.part} {self.key}"
