# The C types of flying.py.
cimport cython

cdef double FARTHEST

@cython.locals(i=Py_ssize_t, j=Py_ssize_t, row=long, other=long, fall=double, own_wide=double, own_high=double)
cpdef bint can_cross(const double[:] x, const double[:] y, const double[:] vx, const double[:] vy, const double[:] wide, const double[:] high, const signed char[:] contact, const long[:] rows, const double[:] falls, const long[:] solid, double[:] way, double dt, double room)

@cython.locals(i=Py_ssize_t, row=long, drop=double, dy=double)
cpdef void fly(double[:] x, double[:] y, const double[:] vx, double[:] vy, const long[:] rows, const double[:] falls, double dt)
