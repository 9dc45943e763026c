"""Photographs of pieces: read within bounds, encoded again, withdrawn but never deleted."""

from uuid import UUID

from django.db import transaction
from django.db.models import QuerySet

from tempermark.core.errors import InputError
from tempermark.web.accounts.models import User
from tempermark.web.accounts.permissions import must_work
from tempermark.web.kit.drawing.pictures import remade
from tempermark.web.kit.records.audit import record
from tempermark.web.run.models import PiecePhoto, PressedPiece, TestPress

MOST_OF_A_PIECE = 40


def add_photo(
    user: User,
    piece: PressedPiece,
    raw: bytes,
    key: UUID,
    test_press: TestPress | None = None,
    washes: int = 0,
    caption: str = "",
) -> PiecePhoto:
    """Keep a photograph of a piece; the same one sent twice is kept once. Raises InputError where
    it is no picture or there are too many.
    """
    must_work(user)
    found = PiecePhoto.every.filter(entry_key=key).defer("image", "small").first()
    if found is not None:
        return found
    if piece.photos.filter(withdrawn_at=None).count() >= MOST_OF_A_PIECE:
        raise InputError.single("file", f"{MOST_OF_A_PIECE} photographs of this piece are enough.")
    image, small, (width, height) = remade(raw)
    with transaction.atomic():
        photo, fresh = PiecePhoto.every.get_or_create(
            entry_key=key,
            defaults={
                "piece": piece,
                "test_press": test_press,
                "washes": washes,
                "image": image,
                "small": small,
                "width": width,
                "height": height,
                "caption": caption[:200],
                "added_by": user,
            },
        )
        if fresh:
            record(user, "photographed piece", photo, piece=piece.pk)
    return photo


def shown(piece: PressedPiece) -> QuerySet[PiecePhoto]:
    """A piece's photographs by washes and time, without their bytes."""
    return PiecePhoto.objects.filter(piece=piece).defer("image", "small")
