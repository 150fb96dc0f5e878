# The C types of boxes.py.
cimport cython

@cython.locals(i=Py_ssize_t, row=long, size=double, along=double, across=double, round_=double, cos=double, sin=double)
cpdef void reach(const double[:, :] sizes, const long[:] kind, const double[:] scale, const double[:] angle, const long[:] rows, double[:] wide, double[:] high)
