"""The Motion phase: behaviours, flight, routes, clips, movements over a time."""
