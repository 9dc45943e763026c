"""Values that are sent beside a query are counted by PostgreSQL in sixteen bits; written into it,
as Django does by itself, there may be any number. Django's backend does not know the limit: a bulk
of 2,000 test presses of 42 columns was refused.
"""

from typing import Any

from django.db.backends.postgresql import base, features, operations

# PostgreSQL's protocol, message Bind: Int16, read without a sign.
MOST_PARAMETERS = 65_535


class DatabaseFeatures(features.DatabaseFeatures):
    """Says how many values a query may have."""

    max_query_params = MOST_PARAMETERS


class DatabaseOperations(operations.DatabaseOperations):
    """Cuts what is written in bulk so that each part may be sent."""

    def bulk_batch_size(self, fields: list[Any], objs: list[Any]) -> int:
        """So many rows of these fields, or keys, fit into one query."""
        return MOST_PARAMETERS // max(len(fields), 1)


class DatabaseWrapper(base.DatabaseWrapper):
    """A connection as Django's, with the limit; Django looks for it by this name."""

    features_class = DatabaseFeatures
    ops_class = DatabaseOperations
