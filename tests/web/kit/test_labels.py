"""Labels of a drawing: none covers another, none sticks out, and one that fits is placed."""

from hypothesis import given
from hypothesis import strategies as st

from tempermark.web.kit.drawing.labels import Box, Labels, Spot, text_box

ROOM = Box(0, 0, 640, 460)
SPOTS = st.builds(
    Spot,
    st.floats(-50, 700),
    st.floats(-50, 500),
    st.sampled_from(["start", "middle", "end"]),
)


@given(st.lists(st.tuples(st.text("abc %9", min_size=1, max_size=40), st.lists(SPOTS, max_size=8))))
def test_what_is_placed_lies_apart_and_inside(wishes):
    labels = Labels(ROOM)
    placed = []
    for text, spots in wishes:
        spot = labels.place(text, spots)
        if spot is not None:
            placed.append(text_box(text, spot))
    assert all(box.is_within(ROOM) for box in placed)
    assert not any(a.meets(b) for i, a in enumerate(placed) for b in placed[i + 1 :])


@given(st.text("ab", min_size=1, max_size=20), st.lists(SPOTS, min_size=1, max_size=8))
def test_the_first_spot_with_room_is_taken(text, spots):
    fitting = [spot for spot in spots if text_box(text, spot).is_within(ROOM)]
    assert Labels(ROOM).place(text, spots) == (fitting[0] if fitting else None)


def test_what_must_stay_visible_is_kept_clear():
    labels = Labels(ROOM, [Box(0, 0, 640, 460)])
    assert labels.place("95 %", [Spot(320, 230)]) is None
