# The C types of steering.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

@cython.locals(rows='const long[:]', speed='double[:]', turning='double[:]', keys=long, ahead=double, turn=double, goes=cython.bint, i=Py_ssize_t, row=long, facing=double, fast=double)
cpdef long steer_by_keys(Columns columns, Settings settings, double dt)

@cython.locals(rows='const long[:]', speed='double[:]', keys=long, up=double, right=double, goes=cython.bint, turned=cython.bint, i=Py_ssize_t, row=long, part=double)
cpdef long steer_eight_ways(Columns columns, Settings settings, double dt)
