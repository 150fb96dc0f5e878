# The C types of turning.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

cdef Py_ssize_t MOST

@cython.locals(rows='const long[:]', speed='double[:]', flip='double[:]', n=Py_ssize_t, turns=Py_ssize_t, i=Py_ssize_t, row=long, turned=double)
cpdef long spin(Columns columns, Settings settings, double dt)
@cython.locals(rows='const long[:]', found='long[:]', a='double[:]', b='double[:]', radius='double[:]', speed='double[:]', start='double[:]', turned='double[:]', n=Py_ssize_t, i=Py_ssize_t, j=Py_ssize_t, row=long, centre=long, alike=long, went=long, before=long, many=long, begins=long, now=double, first=double, angle=double)
cpdef long circle_around(Columns columns, Settings settings, double dt)
@cython.locals(rows='const long[:]', found='long[:]', speed='double[:]', n=Py_ssize_t, many=long, turned=long, i=Py_ssize_t, row=long, other=long, to_x=double, to_y=double, dx=double, dy=double, wanted=double, now=double, left=double, most=double)
cpdef long keep_facing(Columns columns, Settings settings, double dt)
