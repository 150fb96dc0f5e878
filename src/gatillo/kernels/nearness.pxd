# The C types of nearness.py.
cimport cython

@cython.locals(m=Py_ssize_t, n=Py_ssize_t, i=long, j=long, many=long, own_x=double, own_y=double, own_wide=double, own_high=double)
cpdef long overlapping(const double[:] x, const double[:] y, const double[:] wide, const double[:] high, const long[:] some, const long[:] others, double skin, double margin, long[:, :] found)

@cython.locals(m=Py_ssize_t, n=Py_ssize_t, i=long, j=long, many=long, own_x=double, own_y=double, far=double, dx=double, dy=double)
cpdef long within(const double[:] x, const double[:] y, const long[:] some, const long[:] others, const double[:] reaches, long most, long[:, :] found)

@cython.locals(m=Py_ssize_t, n=Py_ssize_t, i=long, j=long, own_x=double, own_y=double, dx=double, dy=double)
cpdef bint any_within(const double[:] x, const double[:] y, const long[:] some, const long[:] others, double far)

@cython.locals(m=Py_ssize_t, n=Py_ssize_t, i=long, j=long, best=long, own_x=double, own_y=double, least=double, dx=double, dy=double, away=double)
cpdef void nearest(const double[:] x, const double[:] y, const long[:] some, const long[:] others, long[:] found)
