# The C types of rays.py.
cimport cython

cdef double INFINITE

cdef class Shapes:
    cdef public const double[:] x, y, angle, scale
    cdef public const long[:] kind
    cdef public const double[:, :] sizes

@cython.locals(dx=double, dy=double, best=long, nearest=double, away=double, k=Py_ssize_t, target=long)
cpdef long first_hit(Shapes shapes, long row, double angle, double reach, const long[:] targets)

@cython.locals(dx=double, dy=double, far=double, safe=double, k=Py_ssize_t, target=long)
cpdef bint is_clear(Shapes shapes, long one, long other, const long[:] targets)

@cython.locals(off_x=double, off_y=double, scale=double, kind=long, radius=double, aside=double, room=double, along=double, half_chord=double, cos=double, sin=double, enters=double, ends=double, bound=double, side=int, offset=double, direction=double, half=double, first=double, second=double)
cdef double _away(Shapes shapes, long row, double dx, double dy, long target) noexcept
