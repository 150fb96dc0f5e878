"""Cards of graphs: the cards that only graphs have, the faces of all cards, and own nodes."""
