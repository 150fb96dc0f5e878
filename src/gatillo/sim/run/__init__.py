"""The tick, and a run with its keyframes."""
