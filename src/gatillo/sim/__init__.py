"""The simulation, in floors: each imports only from those below it.

spatial, program, world, matching, trace, collision, motion, interaction, rules, run.
"""
