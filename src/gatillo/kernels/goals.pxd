# The C types of goals.py.
cimport cython
from gatillo.kernels.columns cimport Columns, Settings

cdef double GOING, LOOKING, RETURNING, HOME
cdef signed char BOTH

@cython.locals(rows='const long[:]', found='long[:]', speed='double[:]', gap='double[:]', stage='double[:]', goal_x='double[:]', goal_y='double[:]', home_x='double[:]', home_y='double[:]', looks_on='double[:]', n=Py_ssize_t, some=long, i=Py_ssize_t, row=long, x=double, y=double, now=double, pace=double, to_x=double, to_y=double, dx=double, dy=double, away=double, stops=double, way=double, step=double, many=long, turned=long, part=double)
cpdef long look_into(Columns columns, Settings settings, double dt)
