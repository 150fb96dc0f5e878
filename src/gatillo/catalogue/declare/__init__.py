"""How catalogue entries are declared, and what follows of an entry from its code."""

from gatillo.catalogue.declare import named_types as named_types
