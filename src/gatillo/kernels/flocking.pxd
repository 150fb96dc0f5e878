# The C types of flocking.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

cdef double ONWARD, REACTION, SLOW
cdef Py_ssize_t MOST_PAIRS

@cython.locals(rows='const long[:]', others='const long[:]', found='long[:]', sums='double[:, :]', apart='double[:]', apart_weight='double[:]', aligned='double[:]', aligned_weight='double[:]', together='double[:]', together_weight='double[:]', speed='double[:]', acceleration='double[:]', new_x='double[:]', new_y='double[:]', n=Py_ssize_t, i=Py_ssize_t, j=Py_ssize_t, k=Py_ssize_t, row=long, other=long, first=long, pairs=long, many=long, turned=cython.bint, alike_apart=cython.bint, alike_aligned=cython.bint, alike_together=cython.bint, reach=double, far_apart=double, far_aligned=double, far_together=double, dx=double, dy=double, away=double, count=double, vx=double, vy=double, wish_x=double, wish_y=double, wishes=double, size=double, strength=double, part=double, x=double, y=double, close=double, top=double, most=double)
cpdef long flock(Columns columns, Settings settings, double dt)
cpdef long be_drawn(Columns columns, Settings settings, double dt)
cpdef long keep_away(Columns columns, Settings settings, double dt)

@cython.locals(rows='const long[:]', radius='double[:]', weight='double[:]', found='long[:]', i=Py_ssize_t, row=long, other=long, dx=double, dy=double, away=double, reach=double, strength=double, wish=double, part=double)
cdef long _toward(Columns columns, Settings settings, double way)
