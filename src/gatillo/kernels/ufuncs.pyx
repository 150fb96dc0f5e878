# The elementary functions over arrays, as NumPy's own are: made only where kernels are compiled.
cimport cython

from gatillo.kernels cimport elementary


@cython.ufunc
cdef double sind(double angle) noexcept nogil:
    return elementary.sind(angle)


@cython.ufunc
cdef double cosd(double angle) noexcept nogil:
    return elementary.cosd(angle)


@cython.ufunc
cdef double tand(double angle) noexcept nogil:
    return elementary.tand(angle)


@cython.ufunc
cdef double atan2d(double y, double x) noexcept nogil:
    return elementary.atan2d(y, x)


@cython.ufunc
cdef double asind(double a) noexcept nogil:
    return elementary.asind(a)


@cython.ufunc
cdef double acosd(double a) noexcept nogil:
    return elementary.acosd(a)


@cython.ufunc
cdef double exp(double x) noexcept nogil:
    return elementary.exp(x)


@cython.ufunc
cdef double log(double a) noexcept nogil:
    return elementary.log(a)


@cython.ufunc
cdef double log1p(double a) noexcept nogil:
    return elementary.log1p(a)


@cython.ufunc
cdef double power(double x, double y) noexcept nogil:
    return elementary.power(x, y)


@cython.ufunc
cdef double length(double dx, double dy) noexcept nogil:
    return elementary.length(dx, dy)
