# The C types of shapes.py.
cimport cython

cdef double INFINITE

@cython.locals(across=double, along=double, out_x=double, out_y=double, outside=double, gap=double, by_x=double, by_y=double, nx=double, ny=double)
cpdef (double, double, double) disc_and_box(double radius, double wide, double high, double cos, double sin, double dx, double dy) noexcept

@cython.locals(cos=double, sin=double, best=double, best_x=double, best_y=double, box=int, quarter=int, axis_x=double, axis_y=double, own_wide=double, own_high=double, far_wide=double, far_high=double, offset=double, gap=double, side=double)
cpdef (double, double, double) two_boxes(double wide, double high, double its_wide, double its_high, double angle, double its_angle, double dx, double dy) noexcept

@cython.locals(many=long, k=Py_ssize_t, i=long, j=long, first=long, second=long, a=long, b=long, dx=double, dy=double, size=double, its_size=double, radius=double, its_radius=double, gap=double)
cpdef long meeting(const double[:] x, const double[:] y, const double[:] angle, const double[:] scale, const long[:] kind, const double[:, :] sizes, const unsigned char[:, :] senses, const long[:] number, const long[:] one, const long[:] other, double most, long[:] met)
