# The C types of walking.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings, Walk

cdef double WALKS, ENDS, TOO_SLOW

cpdef long keep_walking(Columns columns, Settings settings, double dt)
cpdef long keep_riding(Columns columns, Settings settings, double dt)

@cython.locals(rows='const long[:]', number=long, route='double[:]', sent='double[:]', i=Py_ssize_t, row=long, how=long)
cdef long _keep_walking(Walk walk, Settings settings, long timed)

@cython.locals(many=long, n=Py_ssize_t, row=long, number=long, at=long, before=long, i=Py_ssize_t, rests=double, left=double, vx=double, vy=double, dx=double, dy=double, away=double, need=double, part=double, x=double, y=double)
cpdef long walk_on(Columns columns, Walk walk, double dt)

@cython.locals(i=Py_ssize_t, row=long, found=long, begins=long, number=long, turned=cython.bint)
cpdef long walk_again(Columns columns, Walk walk)
