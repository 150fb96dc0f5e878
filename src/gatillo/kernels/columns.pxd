# The C types of columns.py.
cimport cython

cdef class Columns:
    cdef public double[:] x, y, vx, vy, angle
    cdef public const long[:] kind
    cdef public const double[:] drawn
    cdef public signed char[:] driven
    cdef public double[:, :] urges

cdef class Settings:
    cdef public const long[:] rows, others
    cdef public long word
    cdef public long[:] found
    cdef public double[:] a, b, c, d
    cdef public double[:, :] sums
    cdef public double[:] n0, n1, n2, n3, n4, n5, n6, n7, n8
    cdef public double[:] m0, m1, m2, m3, m4, m5, m6

@cython.locals(left=double)
cpdef double half_open(double angle) noexcept

@cython.locals(left=double)
cpdef double within_turn(double angle) noexcept

cpdef bint faces(Columns columns, long row, double angle) noexcept
