"""A recipe's steps pressed on a blank: from its stack to how the piece comes out."""
