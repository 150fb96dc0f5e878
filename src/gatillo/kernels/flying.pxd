# The C types of flying.py.
cimport cython
from gatillo.kernels.shapes cimport Scene

cdef double FARTHEST, AT_ONCE, TENTHS
cdef long MOVABLE, BOTH

@cython.locals(many=long, row=long, other=long, k=Py_ssize_t, n=Py_ssize_t, wide=double, high=double, vx=double, vy=double, reach=double, drop=double, left=double, slides=bint, rate=double, dy=double)
cpdef long drift(Scene scene, const long[:] solid, const signed char[:] driven, const unsigned char[:] guided, const long[:] held, double[:] pulls, double[:] way, long[:] found, bint physical, long most, double dt, double room)

@cython.locals(i=Py_ssize_t, j=Py_ssize_t, row=long, other=long, fall=double, own_wide=double, own_high=double)
cpdef bint can_cross(const double[:] x, const double[:] y, const double[:] vx, const double[:] vy, const double[:] wide, const double[:] high, const signed char[:] contact, const long[:] rows, const double[:] falls, const long[:] solid, double[:] way, double dt, double room)

@cython.locals(i=Py_ssize_t, row=long, drop=double, dy=double)
cpdef void fly(double[:] x, double[:] y, const double[:] vx, double[:] vy, const long[:] rows, const double[:] falls, double dt)
