"""Runs: started from a job, a press, a recipe and the last run; the strip's plan; photographs."""

import io
from uuid import uuid4

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from tempermark.web.bench.plan import run_document, strip_steps
from tempermark.web.bench.platen import platen_state
from tempermark.web.jobs import actions as jobs
from tempermark.web.jobs.models import Job
from tempermark.web.kit.units import IMPERIAL, METRIC
from tempermark.web.presses.models import Press
from tempermark.web.run.models import PiecePhoto, PressedPiece, Run
from tests.support import bench, room
from tests.support.forms import fields_of

pytestmark = pytest.mark.django_db


def posted(browse, path, **changes):
    form = room.soup(browse.get(path)).select_one("main form[method=post]")
    return browse.post(path, fields_of(form) | changes)


def test_a_run_starts_from_a_job_and_takes_over_its_ticks(browse, technician, element):
    job = bench.job(technician, element)
    jobs.tick(technician, job, "place", True)
    answer = posted(browse, f"/jobs/{job.pk}/run/", per_load="2", placings="front, back")
    run = Run.objects.get()
    assert answer.url == f"/runs/{run.pk}/"
    assert (run.per_load, run.placings) == (2, ["front", "back"])
    page = room.soup(browse.get(answer.url))
    text = page.get_text(" ", strip=True)
    assert "of the preparation are not ticked" in " ".join(text.split())
    assert page.select_one("[data-run]")["data-token"]


def test_a_run_starts_from_a_recipe_with_its_job(browse, technician, element):
    bench.job(technician, element)
    Job.objects.all().delete()
    answer = posted(browse, f"/recipes/{bench.VEST}/run/", quantity="7")
    assert Run.objects.get().job.quantity == 7
    assert answer.url.startswith("/runs/")


def test_the_same_again_is_one_tap_even_after_the_job_was_closed(browse, technician, element):
    run = bench.run(technician, element, per_load=2)
    browse.post(f"/runs/{run.pk}/again/", {"once": str(uuid4())})
    assert Run.objects.count() == 2
    assert Job.objects.count() == 1
    jobs.close(technician, run.job, True)
    browse.post(f"/runs/{run.pk}/again/", {"once": str(uuid4())})
    newest = Run.objects.first()
    assert newest.job != run.job
    assert (newest.job.blank, newest.per_load) == (run.job.blank, 2)


def test_a_closed_job_is_not_run(browse, technician, element):
    job = bench.job(technician, element)
    jobs.close(technician, job, True)
    answer = posted(browse, f"/jobs/{job.pk}/run/")
    assert answer.url == f"/jobs/{job.pk}/"
    assert not Run.objects.exists()


def test_the_press_one_stands_at_offers_its_jobs_recipes_and_the_last_run(
    browse, technician, element
):
    bench.run(technician, element)
    text = room.words(browse.get("/presses/heron/run/"))
    for part in ("Heron is pressing Crew vest", "The same again", "Dye on a polyester vest"):
        assert part in text
    assert "Start a run" in room.words(browse.get("/presses/heron/"))


def test_a_timer_s_ceiling_splits_the_dwell_and_the_dial_is_not_turned_between_steps(
    technician, element
):
    room.survey(technician, element)
    Press.objects.update(timer_max_s=20)
    element.press.refresh_from_db()
    run = bench.run(technician, element)
    steps = {step.kind: step for step in strip_steps(run, METRIC)}
    assert steps["press"].closings_s == [20, 20, 12]
    assert steps["press"].set_c == steps["pre_press"].set_c
    assert not steps["peel"].is_heated
    assert "°F" in strip_steps(run, IMPERIAL)[0].dial


def test_what_is_planned_for_a_test_press_goes_before_the_recipe(technician, element):
    run = bench.run(technician, element)
    run.settings = {"set_c": 188.0, "dwell_s": 33.0, "pressure": "light"}
    main = next(step for step in strip_steps(run, METRIC) if step.is_main)
    assert (main.set_c, main.dwell_s, main.pressure) == (188.0, 33.0, "light")


def test_the_document_holds_the_bench_s_entries_alone(browse, technician, element):
    run = bench.run(technician, element)
    rows = [*bench.pressed(run), bench.entry("outcome", pieces=[1], outcome="good")]
    bench.send(browse, run, rows)
    document = run_document(run, METRIC)
    assert [e["kind"] for e in document["entries"]] == ["closed", "opened", "outcome"]
    news = browse.get(f"/runs/{run.pk}/platen/", {"after": document["last"]}).json()
    assert news["entries"] == []
    bench.send(browse, run, [bench.entry("note", text="from the other tablet")])
    news = browse.get(f"/runs/{run.pk}/platen/", {"after": document["last"]}).json()
    assert [e["kind"] for e in news["entries"]] == ["note"]


def test_without_a_logger_the_wait_is_that_of_the_change_under_way(browse, technician, element):
    room.survey(technician, element)
    assert platen_state(element, 205.0, METRIC).text == ""
    jobs.begin_change(technician, element, 150.0, 200.0, uuid4())
    text = platen_state(element, 205.0, METRIC).text
    assert text.startswith("Heron needs about")
    assert "200 °C true" in text.replace("\u00a0", " ")


def picture(kind="JPEG", size=(400, 300), **options):
    out = io.BytesIO()
    Image.new("RGB", size, "#335577").save(out, kind, **options)
    return out.getvalue()


def photo(browse, run, raw, key=None, piece="1"):
    upload = SimpleUploadedFile("photo.jpg", raw, "image/jpeg")
    data = {"file": upload, "piece": piece, "once": str(key or uuid4())}
    return browse.post(f"/runs/{run.pk}/photos/", data)


def test_a_photograph_is_kept_once_without_its_place(browse, technician, element):
    run = bench.run(technician, element)
    exif = Image.Exif()
    exif.get_ifd(0x8825)[1] = "N"
    exif[0x010F] = "a camera"
    raw, key = picture(exif=exif), uuid4()
    for _ in range(3):
        assert photo(browse, run, raw, key).json()["text"] == "Photograph of piece 1 kept."
    kept = PiecePhoto.objects.get()
    found = Image.open(io.BytesIO(bytes(kept.image)))
    assert found.format == "JPEG"
    assert not dict(found.getexif())
    assert kept.piece == PressedPiece.objects.get(run=run, number=1)


def animated():
    out = io.BytesIO()
    frames = [Image.new("RGB", (60, 60), c) for c in ("red", "blue")]
    frames[0].save(out, "WEBP", save_all=True, append_images=frames[1:])
    return out.getvalue()


def test_an_animated_picture_is_kept_as_its_first_frame(browse, technician, element):
    run = bench.run(technician, element)
    assert photo(browse, run, animated()).status_code == 200
    found = Image.open(io.BytesIO(bytes(PiecePhoto.objects.get().image)))
    assert getattr(found, "n_frames", 1) == 1


@pytest.mark.parametrize(
    ("raw", "says"),
    [
        (b"no picture at all", "not a picture"),
        (b"\xff\xd8\xff" + b"\0" * (40 * 1024 * 1024), "at most 12 MB"),
        (picture()[:200], "damaged"),
        (b"", "not a picture"),
    ],
)
def test_what_is_no_photograph_is_refused_in_words(browse, technician, element, raw, says):
    run = bench.run(technician, element)
    answer = photo(browse, run, raw)
    assert answer.status_code == 422
    assert says in answer.json()["text"]
    assert not PiecePhoto.objects.exists()


def test_a_photograph_of_a_piece_beyond_the_run_is_refused(browse, technician, element):
    run = bench.run(technician, element)
    answer = photo(browse, run, picture(), piece="99999")
    assert "no piece 99999" in answer.json()["text"]


def test_labels_are_made_for_pieces_that_are_still_to_come(browse, technician, element):
    run = bench.run(technician, element, quantity=3)
    path = f"/runs/{run.pk}/labels/"
    assert "No piece has a label yet" in room.words(browse.get(path))
    browse.post(path)
    codes = list(run.pieces.order_by("number").values_list("code", flat=True))
    assert len(set(codes)) == 3
    text = room.words(browse.get(path))
    assert all(code in text for code in codes)
    bench.send(browse, run, bench.pressed(run, pieces=(2,)))
    assert run.pieces.get(number=2).code == codes[1]
    assert browse.get(f"/piece/{codes[1]}/code.svg")["Content-Type"] == "image/svg+xml"


def test_the_worker_that_keeps_the_page_may_only_serve_runs(browse):
    answer = browse.get("/runs/worker.js")
    assert answer["Content-Type"] == "text/javascript"
    assert b"caches.open" in answer.content
