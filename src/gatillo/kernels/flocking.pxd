# The C types of flocking.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

cdef double ONWARD, REACTION, SLOW
cdef Py_ssize_t MOST_PAIRS

@cython.locals(rows='const long[:]', others='const long[:]', i=Py_ssize_t, j=Py_ssize_t, row=long, other=long, pairs=long, far=double, dx=double, dy=double, away=double)
cpdef long flock(Columns columns, Settings settings, double dt)

@cython.locals(rows='const long[:]', k=Py_ssize_t, i=long, row=long, other=long, dx=double, dy=double)
cpdef long flock_in_pairs(Columns columns, Settings settings, const long[:] at, const long[:] near, double dt)

@cython.locals(rows='const long[:]', i=Py_ssize_t, row=long, far=double)
cpdef double reach(Settings settings)

@cython.locals(rows='const long[:]', alike='double[:]', ranges=long, i=Py_ssize_t, k=Py_ssize_t, row=long, first=long)
cdef void _begin(Settings settings)

@cython.locals(ranges=long, far=double, count=double, sums='double[:, :]')
cdef void _count(Columns columns, Settings settings, long i, long row, long other, double dx, double dy, double away)

@cython.locals(rows='const long[:]', found='long[:]', sums='double[:, :]', apart_weight='double[:]', aligned_weight='double[:]', together='double[:]', together_weight='double[:]', speed='double[:]', acceleration='double[:]', new_x='double[:]', new_y='double[:]', n=Py_ssize_t, i=Py_ssize_t, row=long, many=long, turned=cython.bint, vx=double, vy=double, wish_x=double, wish_y=double, wishes=double, size=double, strength=double, part=double, x=double, y=double, close=double, top=double, most=double)
cdef long _steer(Columns columns, Settings settings, long pairs, double dt)

cpdef long be_drawn(Columns columns, Settings settings, double dt)
cpdef long keep_away(Columns columns, Settings settings, double dt)

@cython.locals(rows='const long[:]', radius='double[:]', weight='double[:]', found='long[:]', i=Py_ssize_t, row=long, other=long, dx=double, dy=double, away=double, reach=double, strength=double, wish=double, part=double)
cdef long _toward(Columns columns, Settings settings, double way)
