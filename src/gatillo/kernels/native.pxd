# The exact steps of plain.py in C, for compiled kernels.

cdef extern from "math.h" nogil:
    double sqrt(double)
    double floor(double)
    double fabs(double)
    double fmod(double, double)
    double copysign(double, double)

cdef extern from *:
    """
    #include <math.h>
    static double mantissa(double x) { int e; return frexp(x, &e); }
    static double exponent(double x) { int e = 0; if (isfinite(x)) frexp(x, &e); return (double)e; }
    static double scaled(double x, double power) {
        return ldexp(x, -3000.0 < power && power < 3000.0 ? (int)power : 0);
    }
    """
    double mantissa(double) nogil
    double exponent(double) nogil
    double scaled(double, double) nogil
