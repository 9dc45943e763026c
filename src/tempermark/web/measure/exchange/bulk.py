"""Many surveys at once: a folder or an archive in, an archive out."""

import io
import zipfile
from dataclasses import dataclass, replace
from hashlib import sha256
from typing import Any
from uuid import NAMESPACE_OID, uuid5

from django.db import transaction
from django.db.models import Count, QuerySet

from tempermark.core.errors import InputError
from tempermark.files import survey_csv
from tempermark.files.document import parse_json
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.measure.exchange import export
from tempermark.web.measure.exchange import reading as exchange
from tempermark.web.measure.exchange.reading import ImportedSurvey
from tempermark.web.measure.models import Reading, Survey
from tempermark.web.measure.press.history import compute_survey
from tempermark.web.measure.surveys import queries
from tempermark.web.presses.models import Element, Press
from tempermark.web.presses.queries import fitted_first

MOST_FILES = 500
LARGEST_FILE_BYTES = 4 * 1024 * 1024
LARGEST_SUM_BYTES = 60 * 1024 * 1024
MOST_EXPORTED = 500
MOST_PROBLEMS = 3


@dataclass(frozen=True)
class ImportResult:
    """What became of one file."""

    name: str
    survey: Survey | None
    summary: str
    fresh: bool = False
    is_refused: bool = True


def unpacked(files: list[tuple[str, bytes]]) -> list[tuple[str, bytes]]:
    """The files, archives among them replaced by what is in them; InputError over the bounds."""
    found: list[tuple[str, bytes]] = []
    for name, raw in files:
        found += _members(name, raw) if raw[:4] == b"PK\x03\x04" else [(name, raw)]
        if len(found) > MOST_FILES:
            raise InputError.single(None, f"Over {MOST_FILES} files: send them in parts.")
        if sum(len(data) for _, data in found) > LARGEST_SUM_BYTES:
            raise InputError.single(None, "Over 60 MB unpacked: send them in parts.")
    return found


def _members(name: str, raw: bytes) -> list[tuple[str, bytes]]:
    """Files of an archive, each read up to its bound whatever its header says."""
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            entries = [e for e in archive.infolist() if not e.is_dir()]
            if len(entries) > MOST_FILES:
                raise InputError.single(None, f"{name} holds over {MOST_FILES} files.")
            found, total = [], 0
            for entry in entries:
                with archive.open(entry) as member:
                    data = member.read(LARGEST_FILE_BYTES + 1)
                total += len(data)
                if total > LARGEST_SUM_BYTES:
                    raise InputError.single(None, f"{name} is over 60 MB unpacked.")
                found.append((entry.filename, data))
            return found
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, OSError) as error:
        raise InputError.single(None, f"{name} is not a readable archive ({error}).") from None


def take_in(user: User, files: list[tuple[str, bytes]]) -> list[ImportResult]:
    """Import each file for the press it names: all of them, or none where one is refused, each
    with what is wrong in it or that it is sound.

    The same file again is the survey it made before.
    """
    must_work(user)
    elements = {e.press.name.lower(): e for e in fitted_first().select_related("press").reverse()}
    with transaction.atomic():
        outcomes = [_one(user, elements, name, raw) for name, raw in sorted(files)]
        if all(outcome.survey for outcome in outcomes):
            return outcomes
        transaction.set_rollback(True)
    return [_not_taken(outcome) for outcome in outcomes]


def _not_taken(outcome: ImportResult) -> ImportResult:
    """What is said of a file where another was refused."""
    if outcome.survey is None:
        return outcome
    if not outcome.fresh:
        return replace(outcome, is_refused=False)
    summary = "fine, but not imported because another file is not"
    return ImportResult(outcome.name, None, summary, is_refused=False)


def _one(user: User, elements: dict[str, Any], name: str, raw: bytes) -> ImportResult:
    try:
        if len(raw) > LARGEST_FILE_BYTES:
            raise InputError.single(None, "Over 4 MB.")
        element = _element(elements, raw)
        imported = exchange.read_file(raw, element)
        here = _same_survey(element, imported)
        if here is not None:
            return ImportResult(name, here, "is here already")
        key = uuid5(NAMESPACE_OID, f"{element.pk}:{sha256(raw).hexdigest()}")
        known = Reading.objects.filter(entry_key=uuid5(key, "import:0")).exists()
        survey = exchange.import_survey(user, element, imported, key)
    except InputError as error:
        found = [str(p.message) for p in error.problems[:MOST_PROBLEMS]]
        if len(error.problems) > MOST_PROBLEMS:
            found.append(f"And {len(error.problems) - MOST_PROBLEMS} more.")
        return ImportResult(name, None, " ".join(found))
    if known:
        return ImportResult(name, survey, "was imported before")
    return ImportResult(name, survey, f"{len(imported.stations)} stations", fresh=True)


def _same_survey(element: Element, imported: ImportedSurvey) -> Survey | None:
    """A survey of that element begun at the very moment the file says, with as many stations."""
    if imported.taken_at is None:
        return None
    found = element.surveys.filter(taken_at=imported.taken_at)
    counted = found.annotate(count=Count("stations")).filter(count=len(imported.stations))
    return queries.with_names(counted).first()


def _element(elements: dict[str, Any], raw: bytes) -> Element:
    """The element a file is of: JSON says `survey.press`, CSV a line `# press: Heron`."""
    text = survey_csv.decode(raw)
    if text.lstrip()[:1] == "{":
        data = parse_json(text)
        head = data.get("survey") if isinstance(data, dict) else None
        named = head.get("press") if isinstance(head, dict) else None
    else:
        named = survey_csv.comments(text).get("press")
    if not isinstance(named, str) or not named.strip():
        raise InputError.single(
            None, "It does not name its press (survey.press, or a line “# press: Heron”)."
        )
    element = elements.get(named.strip().lower())
    if element is None:
        known = ", ".join(Press.objects.values_list("name", flat=True)[:20])
        raise InputError.single(None, f"No press here is called {named[:40]}. Known: {known}.")
    return element


def archive(surveys: QuerySet[Survey]) -> bytes:
    """Surveys as JSON and CSV, one folder a press, so that they come in again as they are."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as result:
        for survey in surveys[:MOST_EXPORTED]:
            computed = compute_survey(survey)
            if not computed.read:
                continue
            slug = survey.element.press.slug
            stem = f"{slug}/{survey.taken_at:%Y-%m-%d}-{survey.pk}"
            result.writestr(f"{stem}.json", export.to_json(computed))
    return out.getvalue()
