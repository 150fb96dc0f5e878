# The C types of shapes.py.
cimport cython

cdef double INFINITE

@cython.locals(across=double, along=double, out_x=double, out_y=double, outside=double, gap=double, by_x=double, by_y=double, nx=double, ny=double)
cpdef (double, double, double) disc_and_box(double radius, double wide, double high, double cos, double sin, double dx, double dy) noexcept

@cython.locals(cos=double, sin=double, best=double, best_x=double, best_y=double, box=int, quarter=int, axis_x=double, axis_y=double, own_wide=double, own_high=double, far_wide=double, far_high=double, offset=double, gap=double, side=double)
cpdef (double, double, double) two_boxes(double wide, double high, double its_wide, double its_high, double angle, double its_angle, double dx, double dy) noexcept

cdef class Scene:
    cdef public const double[:] x, y, angle, scale, wide, high
    cdef public const long[:] kind, number
    cdef public const unsigned char[:] moved
    cdef public const double[:, :] sizes
    cdef public const unsigned char[:, :] senses

@cython.locals(many=long, k=Py_ssize_t, i=long, j=long)
cpdef long meeting(Scene scene, const long[:] one, const long[:] other, double most, long[:] met)

@cython.locals(many=long, k=Py_ssize_t, n=Py_ssize_t, i=long, j=long, x=double, y=double, wide=double, high=double)
cpdef long meeting_among(Scene scene, const long[:] rows, double most, long[:] met)

cdef long _code(long one, long other) noexcept

@cython.locals(first=long, second=long, dx=double, dy=double, size=double, its_size=double, wide=double, high=double, radius=double, its_wide=double, its_high=double, its_radius=double, cos=double, sin=double, gap=double)
cdef double _gap(Scene scene, long i, long j) noexcept
