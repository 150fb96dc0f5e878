# The C types of shapes.py.
cimport cython

cdef double INFINITE, LEEWAY
cdef long MOVABLE, FEW

@cython.locals(across=double, along=double, out_x=double, out_y=double, outside=double, gap=double, by_x=double, by_y=double, nx=double, ny=double)
cpdef (double, double, double) disc_and_box(double radius, double wide, double high, double cos, double sin, double dx, double dy) noexcept

@cython.locals(cos=double, sin=double, best=double, best_x=double, best_y=double, box=int, quarter=int, axis_x=double, axis_y=double, own_wide=double, own_high=double, far_wide=double, far_high=double, offset=double, gap=double, side=double)
cpdef (double, double, double) two_boxes(double wide, double high, double its_wide, double its_high, double angle, double its_angle, double dx, double dy) noexcept

cdef class Scene:
    cdef public double[:] x, y, vx, vy
    cdef public const double[:] angle, scale, wide, high, gravity, friction
    cdef public const long[:] kind, number
    cdef public long[:] last_moved
    cdef public const unsigned char[:] alive, asleep
    cdef public unsigned char[:] moved, grounded
    cdef public const signed char[:] contact
    cdef public const double[:, :] sizes
    cdef public const unsigned char[:, :] senses

@cython.locals(many=long, k=Py_ssize_t, i=long, j=long)
cpdef long meeting(Scene scene, const long[:] one, const long[:] other, double most, long[:] met)

@cython.locals(many=long, k=Py_ssize_t, n=Py_ssize_t, i=long, j=long)
cpdef long meeting_among(Scene scene, const long[:] rows, double most, long[:] met)

@cython.locals(many=long, k=Py_ssize_t, n=Py_ssize_t, at=Py_ssize_t, row=Py_ssize_t, code=long, same=bint)
cpdef long settle(Scene scene, const long[:] sensed, const long[:] before, double most, long tick, long[:] met)

@cython.locals(low=Py_ssize_t, high=Py_ssize_t, middle=Py_ssize_t)
cdef bint _stands(Scene scene, long number) noexcept

@cython.locals(k=Py_ssize_t, n=Py_ssize_t, i=long, j=long)
cpdef bint lie_apart(Scene scene, const long[:] solid, double skin, double deep)

@cython.locals(wide=double, high=double)
cdef bint _boxes_meet(Scene scene, long i, long j, double most) noexcept

cdef long _code(long one, long other) noexcept

cdef double _gap(Scene scene, long i, long j) noexcept

@cython.locals(gap=double, nx=double, ny=double)
cpdef bint can_close(Scene scene, long i, long j, double way, bint straight, double dt) noexcept

@cython.locals(first=long, second=long, dx=double, dy=double, size=double, its_size=double, wide=double, high=double, radius=double, its_wide=double, its_high=double, its_radius=double, away=double, safe=double, cos=double, sin=double, gap=double, nx=double, ny=double)
cdef (double, double, double) _apart(Scene scene, long i, long j) noexcept
