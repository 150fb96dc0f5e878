# The C types of elementary.py.
cimport cython

cdef double INFINITE, NEITHER, LARGEST, SPLITTER, RADIAN, RADIAN_LOW, DEGREE, DEGREE_LOW
cdef double LN2, LN2_LOW, PER_LN2, THIRD, THIRD_LOW
cdef double AT_1, AT_1_LOW, AT_2, AT_2_LOW, AT_3, AT_3_LOW

cdef (double, double) product(double a, double b) noexcept nogil
cdef (double, double) total(double a, double b) noexcept nogil
cdef (double, double, double, double) _rest(double angle) noexcept nogil
cdef (double, double) _quarter(double angle) noexcept nogil
@cython.locals(steep=cython.bint, left=cython.bint)
cdef double _direction(double y, double y_low, double x, double x_low) noexcept nogil
cdef (double, double) _other_side(double a) noexcept nogil
cdef double _exponential(double x, double x_low) noexcept nogil
@cython.locals(small=cython.bint)
cdef (double, double) _logarithm(double a, double a_low) noexcept nogil

cpdef double length(double dx, double dy) noexcept nogil
cpdef double sind(double angle) noexcept nogil
cpdef double cosd(double angle) noexcept nogil
@cython.locals(odd=cython.bint)
cpdef double tand(double angle) noexcept nogil
cpdef double atan2d(double y, double x) noexcept nogil
cpdef double asind(double a) noexcept nogil
cpdef double acosd(double a) noexcept nogil
cpdef double exp(double x) noexcept nogil
cpdef double log(double a) noexcept nogil
@cython.locals(inside=cython.bint)
cpdef double log1p(double a) noexcept nogil
@cython.locals(odd=cython.bint)
cpdef double power(double x, double y) noexcept nogil
