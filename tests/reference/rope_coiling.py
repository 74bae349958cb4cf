"""How fast a thin viscous rope coils where gravity drives it: the figures that rope_test.cpp checks against.

Solves the boundary value problem of Ribe 2004, "Coiling of viscous jets" (Proc. R. Soc. A 460), without inertia
and stretching, with SciPy's solve_bvp. In the frame that turns with the coil, along the rope s, with its place x,
tangent t, angular velocity o of its cross-sections, moment M and force N:

  x' = t    t' = (o - W e_z) x t / U    M = 3 n I o'_bend + 2 n I o'_twist    M' = N x t    N' = w e_z

It leaves a nozzle straight down without turning, and lies still, level, on a circle of radius U / W. Lengths are
in L = (3 n I U / w)^1/4 = (3/4 nu a^2 U / g)^1/4, so that W L / U is a number for each height of fall H / L; that
is W = c (g Q^3 / (nu a^8))^1/4 with c = (4/3)^1/4 pi^-3/4 W L / U.

Usage: python3 rope_coiling.py
"""
import numpy as np
from scipy.integrate import solve_bvp

TWIST = 2 / 3  # of the stiffness against bending


def rope(s, y, p):
    turn, length = p
    t, o, moment, force = (y[i : i + 3] for i in (3, 6, 9, 12))
    t = t / np.sqrt((t * t).sum(0))
    up = np.zeros_like(t)
    up[2] = 1
    cross = lambda a, b: np.cross(a.T, b.T).T
    more = moment + (1 / TWIST - 1) * (moment * t).sum(0) * t
    return length * np.vstack([t, cross(o - turn * up, t), more, cross(force, t), up])


def ends(height):
    def of(a, b, p):
        radius = 1 / p[0]
        return np.array([*a[0:2], a[2] - height, *a[3:5], a[5] + 1, *a[6:9],
                         b[0] - radius, *b[1:3], b[5], b[3], *b[6:9]])

    return of


def main():
    s = np.linspace(0, 1, 60)
    height, turn = 0.5, 1.0
    y = np.zeros((15, s.size))
    y[0], y[1], y[2] = s**2, 0.3 * np.sin(np.pi * s), height * (1 - s)
    y[3], y[4], y[5] = 0.3 * np.sin(np.pi * s), -np.sin(np.pi / 2 * s), -np.cos(np.pi / 2 * s)
    p = [turn, np.hypot(height, 1)]
    print("H/L    W L/U   W / (g Q^3 / (nu a^8))^1/4")
    while height < 15:
        found = solve_bvp(rope, ends(height), s, y, p=p, tol=1e-5, max_nodes=20000)
        if not found.success:
            raise SystemExit(f"no solution at {height}: {found.message}")
        s, y, p = found.x, found.y, found.p
        print(f"{height:5.2f}  {p[0]:.3f}   {p[0] * (4 / 3) ** 0.25 / np.pi**0.75:.3f}")
        height *= 1.12


main()
