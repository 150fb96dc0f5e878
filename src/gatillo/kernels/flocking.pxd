# The C types of flocking.py.
cimport cython

@cython.locals(dt=double, slow=double, onward=double, reaction=double, pairs=Py_ssize_t, k=Py_ssize_t, i=Py_ssize_t, dx=double, dy=double, away=double, count=double, vx=double, vy=double, wish_x=double, wish_y=double, wishes=double, size=double, strength=double, part=double, x=double, y=double, close=double)
cpdef void steer(const long[:] at, const double[:, :] others, const double[:, :] place, const double[:, :] ranges, const double[:, :] weights, const double[:] together, const double[:, :] urged, const double[:] top, const double[:] most, const double[:] limits, double[:, :] sums, double[:, :] new)
