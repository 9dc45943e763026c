"""What the heat makes of a piece: dye, bond, risks, how sure, what to set, what is learned."""
