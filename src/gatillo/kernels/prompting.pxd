# The C types of prompting.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

cdef Py_ssize_t MOST_PAIRS

@cython.locals(rows='const long[:]', others='const long[:]', reach='double[:]', i=Py_ssize_t, j=Py_ssize_t, row=long, other=long, far=double, dx=double, dy=double)
cpdef long nobody_near(Columns columns, Settings settings, double dt)
