"""How a player comes on from take to take."""
