# The C types of wandering.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

@cython.locals(rows='const long[:]', a='double[:]', b='double[:]', c='double[:]', speed='double[:]', nth='double[:]', goal_x='double[:]', goal_y='double[:]', rest='double[:]', n=Py_ssize_t, i=Py_ssize_t, row=long, many=long, fast=double, rests=double, left=double, dx=double, dy=double, away=double, step=double, part=double, x=double, y=double)
cpdef long wander(Columns columns, Settings settings, double dt)

@cython.locals(turned=cython.bint, i=long, row=long)
cdef long _turned(Columns columns, Settings settings, long many)
