# The C types of columns.py.
cimport cython

cdef class Walk:
    cdef public double[:] going, sent, route, stop, rest, speed, leg_time, gone, faces, how, easing, left, vx, vy
    cdef public const double[:, :] stops
    cdef public const long[:] first
    cdef public const double[:] busy
    cdef public const unsigned char[:] on, alive
    cdef public long[:] rows, found
    cdef public long many

cdef class Columns:
    cdef public double[:] x, y, vx, vy, angle
    cdef public const long[:] kind
    cdef public const double[:] drawn
    cdef public signed char[:] driven
    cdef public double[:, :] urges
    cdef public Walk walk

cdef class Settings:
    cdef public const long[:] rows, others
    cdef public long w0, w1, w2, w3, keys, heard, aims
    cdef public double to_x, to_y
    cdef public long[:] found
    cdef public double[:] a, b, c
    cdef public double[:, :] sums
    cdef public double[:] n0, n1, n2, n3, n4, n5, n6, n7, n8
    cdef public double[:] m0, m1, m2, m3, m4, m5, m6

@cython.locals(left=double)
cpdef double half_open(double angle) noexcept

@cython.locals(left=double)
cpdef double within_turn(double angle) noexcept

cpdef bint faces(Columns columns, long row, double angle) noexcept
