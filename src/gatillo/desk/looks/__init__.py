"""How kinds, objects and places look: drawings, pictures, and small ones for lists."""
