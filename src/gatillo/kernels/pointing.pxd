# The C types of pointing.py.
cimport cython
from gatillo.kernels.rays cimport Shapes

@cython.locals(many=long, row=Py_ssize_t, dx=double, dy=double, kind=long, scale=double, radius=double, holds=cython.bint, cos=double, sin=double, across=double, along=double)
cpdef long under(Shapes shapes, const double[:] wide, const double[:] high, const unsigned char[:] there, const unsigned char[:] shown, double x, double y, double slack, long[:] found)
