"""Photographs of a press: added, seen on its page, taken away and put back."""

from django.core.files.uploadedfile import SimpleUploadedFile

from tempermark.web.presses import photos
from tempermark.web.presses.models import PressPhoto
from tests.support import room
from tests.web.kit.test_pictures import picture

PATH = "/presses/heron/photographs/"


def add(browse, raw=None, caption="type plate"):
    raw = picture() if raw is None else raw
    file = SimpleUploadedFile("../../etc/plate.jpg", raw)
    return browse.post(PATH, {"file": file, "caption": caption})


def test_added_shown_and_served_as_our_own_jpeg(browse, element):
    assert "No photograph of Heron yet" in room.words(browse.get(PATH))
    assert add(browse).url == PATH
    page = room.soup(browse.get(PATH))
    source = page.select_one("figure img")["src"]
    assert page.select_one("figure img")["alt"] == "type plate"
    answer = browse.get(source)
    assert answer["Content-Type"] == "image/jpeg"
    assert answer["X-Content-Type-Options"] == "nosniff"
    assert answer.content[:2] == b"\xff\xd8"
    assert room.soup(browse.get("/presses/heron/")).select_one("img.thumb")["src"] == source


def test_no_picture_is_refused_and_the_caption_kept(browse, element):
    answer = add(browse, b"%PDF-1.4")
    assert answer.status_code == 422
    assert "Send a JPEG, PNG or WebP" in room.words(answer)
    assert room.soup(answer).select_one("[name=caption]")["value"] == "type plate"
    assert not PressPhoto.objects.exists()


def test_taken_away_and_put_back(browse, element):
    add(browse)
    photo = PressPhoto.objects.get()
    source = f"/photographs/{photo.pk}/small.jpg"
    browse.post(f"/photographs/{photo.pk}/change/")
    assert browse.get(source).status_code == 404
    assert "Removed: type plate" in room.words(browse.get(PATH))
    browse.post(f"/photographs/{photo.pk}/change/", {"back": "1"})
    assert browse.get(source).status_code == 200


def test_there_is_an_end_to_it(browse, element, monkeypatch):
    monkeypatch.setattr(photos, "MOST_PHOTOS", 1)
    add(browse)
    assert "remove one first" in room.words(add(browse))


def test_a_clerk_looks_and_adds_nothing(client, element, clerk):
    client.force_login(clerk)
    assert client.get(PATH).status_code == 200
    assert add(client).status_code == 403


def test_pictures_are_for_people_who_are_signed_in(client, browse, element):
    add(browse)
    source = f"/photographs/{PressPhoto.objects.get().pk}/small.jpg"
    client.logout()
    assert client.get(source).status_code == 302
