# The C types of elimination.py.
cimport cython

@cython.locals(k=Py_ssize_t, n=Py_ssize_t, along=double, shared=double)
cpdef void stiffness(const long[:] a, const long[:] b, const double[:] nx, const double[:] ny, const double[:] light, double[:, :] out)

@cython.locals(n=Py_ssize_t, k=Py_ssize_t, i=Py_ssize_t, j=Py_ssize_t, part=double, rest=double)
cpdef void solve(double[:, :] matrix, double[:] found)

@cython.locals(n=Py_ssize_t, i=Py_ssize_t, j=Py_ssize_t, added=double)
cpdef void times(const double[:, :] matrix, const double[:] by, double[:] out)
