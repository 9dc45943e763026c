"""Changes to fault cases."""

from datetime import datetime
from uuid import UUID, uuid5

from django.db import transaction
from django.utils import timezone

from tempermark.core.diagnosis.knowledge.loading import shipped
from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_lead, must_work
from tempermark.web.kit.records.audit import record
from tempermark.web.kit.units import Units
from tempermark.web.run.models import PieceOutcome, TestPress
from tempermark.web.trace.board import figures
from tempermark.web.trace.board.diagnosis import diagnose_case
from tempermark.web.trace.board.words import chances
from tempermark.web.trace.models import CheckRecord, FaultCase, KnowledgeChange


@transaction.atomic
def open_case(user: User, piece: TestPress, now: datetime | None = None) -> FaultCase:
    """Start tracing from a test press; the second time gives the same case."""
    must_work(user)
    marked = {mark.symptom for mark in piece.marks.all()}
    if not marked:
        raise InputError.single(None, "Mark what is wrong on the piece first.")
    earlier = FaultCase.objects.filter(test_press=piece).exclude(closed_at=None)
    traced = {code for one in earlier for code in marked - set(one.set_aside)}
    if earlier and not marked - traced:
        return piece.fault_case
    case, fresh = FaultCase.objects.get_or_create(
        test_press=piece,
        closed_at=None,
        defaults={
            "opened_at": now or timezone.now(),
            "opened_by": user,
            "set_aside": sorted(traced),
        },
    )
    if fresh:
        _begin(case)
        if piece.outcome == PieceOutcome.OPEN:
            piece.outcome = PieceOutcome.FAULTY
            piece.save(update_fields=["outcome"])
        record(user, "opened case", case)
    return case


def _begin(case: FaultCase) -> None:
    """Keep what is thought before anything is asked, and whether it seems to be no fault."""
    found = diagnose_case(case)
    case.first_thought = found.chances
    case.seems_normal = found.diagnosis.normal_appearance
    case.save(update_fields=["first_thought", "seems_normal"])


def _settle(case: FaultCase) -> None:
    """Keep whether what is seen seems to be no fault: the floor counts no such case."""
    case.seems_normal = diagnose_case(case).diagnosis.normal_appearance
    case.save(update_fields=["seems_normal"])


@transaction.atomic
def trace_only(user: User, case: FaultCase, symptoms: list[str]) -> FaultCase:
    """Trace these of the marked symptoms and set the others aside; all of them for none."""
    must_work(user)
    case = _open(case)
    marked = {mark.symptom for mark in case.test_press.marks.all()}
    chosen = marked & set(symptoms)
    if symptoms and not chosen:
        raise InputError.single(None, "There is no such mark on this piece.")
    case.set_aside = sorted(marked - chosen) if chosen else []
    case.last_step = {}
    case.save(update_fields=["set_aside", "last_step"])
    _begin(case)
    record(user, "set marks aside", case, aside=case.set_aside)
    return case


def _step(case: FaultCase, what: str) -> None:
    """Keep what is thought just before a check or an answer, so that what it moves can be told."""
    case.last_step = {"what": what, "before": chances(diagnose_case(case).diagnosis)}
    case.save(update_fields=["last_step"])


@transaction.atomic
def change_knowledge(
    user: User, cause: str, part: str, key: str, value: float, why: str
) -> KnowledgeChange:
    """A shop's own number, above the shipped one."""
    must_lead(user)
    row = KnowledgeChange.objects.create(
        cause=cause, part=part, key=key, value=value, why=why, by=user
    )
    record(user, "changed knowledge", row, cause=cause, part=part, value=value)
    return row


@transaction.atomic
def withdraw_change(user: User, row: KnowledgeChange) -> None:
    """The shipped number holds again."""
    must_lead(user)
    row.withdrawn_at = timezone.now()
    row.save(update_fields=["withdrawn_at"])
    record(user, "withdrew knowledge change", row, cause=row.cause, part=row.part)


def _open(case: FaultCase) -> FaultCase:
    case = FaultCase.objects.select_for_update().get(pk=case.pk)
    if case.closed_at:
        raise InputError.single(None, "This case is closed.")
    return case


@transaction.atomic
def answer_fact(user: User, case: FaultCase, fact: str, answer: str) -> FaultCase:
    """`yes`, `no`, or `unknown` to a question about how it was done."""
    must_work(user)
    case = _open(case)
    if fact not in shipped().facts or answer not in ("yes", "no", "unknown"):
        raise InputError.single(None, "There is no such question.")
    _step(case, f"{shipped().facts[fact].label}: {answer}")
    case.facts = [f for f in case.facts if f != fact] + ([fact] if answer == "yes" else [])
    case.not_facts = [f for f in case.not_facts if f != fact] + ([fact] if answer == "no" else [])
    case.save(update_fields=["facts", "not_facts"])
    _settle(case)
    record(user, "answered", case, fact=fact, answer=answer)
    return case


@transaction.atomic
def answer_seen(user: User, case: FaultCase, symptom: str, answer: str) -> FaultCase:
    """`yes`, `no`, or `unknown` to whether a symptom is seen too."""
    must_work(user)
    case = _open(case)
    if symptom not in shipped().symptoms or answer not in ("yes", "no", "unknown"):
        raise InputError.single(None, "There is no such question.")
    _step(case, f"{shipped().symptoms[symptom].label.lower()}, also seen: {answer}")
    for name, sentence in (("also_seen", "yes"), ("not_seen", "no")):
        others = [code for code in getattr(case, name) if code != symptom]
        setattr(case, name, others + ([symptom] if answer == sentence else []))
    case.save(update_fields=["also_seen", "not_seen"])
    _settle(case)
    record(user, "answered", case, symptom=symptom, answer=answer)
    return case


@transaction.atomic
def answer_figure(
    user: User, case: FaultCase, about: str, typed: str, units: Units | None = None
) -> FaultCase:
    """A figure, in `unit` or else the person's own, or a word for something the case did not know;
    empty forgets it.
    """
    must_work(user)
    case = _open(case)
    if about not in figures.FIGURES:
        raise InputError.single(None, "There is no such question.")
    units = units or user.units
    value = figures.read(about, typed, units) if typed.strip() else None
    _step(case, figures.figure_summary(about, value, units))
    others = {k: v for k, v in case.figures.items() if k != about}
    case.figures = others if value is None else others | {about: value}
    case.save(update_fields=["figures"])
    _settle(case)
    record(user, "answered", case, about=about, typed=typed[:40])
    return case


@transaction.atomic
def record_check(
    user: User,
    case: FaultCase,
    check: str,
    outcome: str,
    form_key: UUID,
    now: datetime | None = None,
) -> CheckRecord:
    """A check's outcome: one of its labels, `nothing` found, or `unclear`."""
    must_work(user)
    case = _open(case)
    known = shipped().checks.get(check)
    labels = {o.label for o in known.outcomes} if known else set()
    if known is None or outcome not in labels | {"nothing", "unclear"}:
        raise InputError.single(None, "There is no such check or outcome.")
    key = uuid5(form_key, f"{check}:{outcome}")
    if not CheckRecord.objects.filter(entry_key=key).exists():
        found = {"nothing": "nothing found"}.get(outcome, outcome.lower())
        _step(case, f"{known.label.lower()}: {found}")
    row, fresh = CheckRecord.objects.get_or_create(
        entry_key=key,
        defaults={
            "case": case,
            "check_code": check,
            "outcome": outcome if outcome in labels else "",
            "unclear": outcome == "unclear",
            "done_at": now or timezone.now(),
            "done_by": user,
        },
    )
    if fresh:
        _settle(case)
        record(user, "recorded check", case, check=check, outcome=outcome)
    return row


@transaction.atomic
def take_check_back(user: User, case: FaultCase, check_pk: int) -> None:
    """Take a check's result back; it stays on record."""
    must_work(user)
    case = _open(case)
    for result in CheckRecord.objects.filter(pk=check_pk, case=case, taken_back_at=None):
        _step(case, f"undone: {shipped().checks[result.check_code].label.lower()}")
        result.taken_back_at = timezone.now()
        result.save(update_fields=["taken_back_at"])
        _settle(case)
        record(user, "took check back", case, check=result.check_code)


@transaction.atomic
def close_case(
    user: User,
    case: FaultCase,
    cause: str,
    proof: TestPress | None,
    note: str,
    now: datetime | None = None,
    second: str = "",
    unproven_why: str = "",
) -> FaultCase:
    """Close with the cause found (`second`: another at work) and a good test press as proof.

    A normal appearance closes without one, for there is nothing to mend; a fault does where none
    can be pressed, with the reason why: it is then said to be unproven.
    """
    must_work(user)
    case = _open(case)
    causes = shipped().causes
    if cause not in causes:
        raise InputError.single("cause", "Choose the cause that was found.")
    normal = causes[cause].normal
    if second and (second not in causes or second == cause or normal or causes[second].normal):
        raise InputError.single("second", "The second cause must be another one, or none.")
    unproven_why = "" if normal or proof is not None else unproven_why.strip()[:300]
    if proof is None and not normal and not unproven_why:
        raise InputError.single(
            "proof",
            "Press once more and score it good: that is the proof. Where no piece can be pressed, "
            "say why.",
        )
    if proof is not None and proof.outcome != PieceOutcome.GOOD:
        raise InputError.single("proof", "The proof must be a test press that was scored good.")
    case.cause, case.second_cause, case.found_normal = cause, second, normal
    case.proof, case.closing_note, case.unproven_why = proof, note[:1000], unproven_why
    case.closed_at, case.closed_by = now or timezone.now(), user
    case.last_thought = diagnose_case(case).chances
    case.save(
        update_fields=[
            "cause",
            "second_cause",
            "found_normal",
            "proof",
            "closing_note",
            "unproven_why",
            "closed_at",
            "closed_by",
            "last_thought",
        ]
    )
    record(user, "closed case", case, cause=cause, second=second, unproven=unproven_why)
    return case


@transaction.atomic
def reopen_case(user: User, case: FaultCase) -> FaultCase:
    """Open a closed case again."""
    must_work(user)
    case = FaultCase.objects.select_for_update().get(pk=case.pk)
    others = FaultCase.objects.filter(test_press=case.test_press_id, closed_at=None)
    if others.exclude(pk=case.pk).exists():
        raise InputError.single(None, "Another case of this piece is open: close that one first.")
    case.closed_at, case.closed_by, case.proof = None, None, None
    case.cause = case.second_cause = case.unproven_why = ""
    case.found_normal = False
    case.save(
        update_fields=[
            "closed_at",
            "closed_by",
            "proof",
            "cause",
            "second_cause",
            "found_normal",
            "unproven_why",
        ]
    )
    _settle(case)
    record(user, "opened case again", case)
    return case
