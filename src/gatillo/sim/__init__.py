"""The simulation, in floors: each imports only from those before it.

spatial, program, world, matching, trace, collision, motion, interaction, rules, run.
"""
