"""What is written in bulk goes in parts that PostgreSQL takes."""

import pytest

from tempermark.web.kit.postgresql.base import MOST_PARAMETERS
from tempermark.web.recipes.models import Blank

pytestmark = pytest.mark.django_db


def test_more_values_than_a_query_may_have_are_written_in_parts(django_assert_max_num_queries):
    columns = len(Blank._meta.concrete_fields) - 1
    before, count = Blank.objects.count(), MOST_PARAMETERS // columns + 1
    blanks = [Blank(name=f"blank {n}") for n in range(count)]
    # Two parts, and the transaction around them.
    with django_assert_max_num_queries(4):
        Blank.objects.bulk_create(blanks)
    assert Blank.objects.count() == before + count
