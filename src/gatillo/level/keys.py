"""Keys, and pointer buttons, by the names that rules, formulas and trials give them."""

KEYS = (
    *(chr(c) for c in range(ord("A"), ord("Z") + 1)),
    *(str(d) for d in range(10)),
    "Left",
    "Right",
    "Up",
    "Down",
    "Space",
    "Enter",
    "Tab",
    "Shift",
    "Control",
    "Backspace",
)
"""Every key of the keyboard that a rule or a trial may name."""
POINTER_KEYS = ("pointer left", "pointer middle", "pointer right")
"""The pointer's buttons, as a trial's input and formulas name them."""
