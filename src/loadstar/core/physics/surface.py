"""How much heat does a wire or bundle give off to still air, and how far above the air does its surface settle?

Natural convection of a horizontal cylinder after Churchill and Chu (1975) with air properties at film temperature
(Sutherland's laws for viscosity and conductivity, the ideal gas), radiation with emissivity 0.9. Temperatures in C,
diameters in mm, heat in W per metre; all arguments are arrays or scalars that broadcast. Valid for films of -50 to 1000
C and diameters of 0.5 to 100 mm.
"""

import numpy as np
from numpy.typing import ArrayLike, NDArray

Array = NDArray[np.float64]
SIGMA = 5.670374e-8
EMISSIVITY = 0.9
STEFAN_K = 273.15
RUNAWAY_C = 1000.0
FIRST_GUESS_H = 18.0
LEAST_RISE_K = 1e-9
SETTLED_K = 1e-6  # the last of Newton's steps: what is left then is its square
MOST_STEPS = 60
# Air: viscosity MU f^1.5 / (f + 110.4), conductivity KAPPA f^1.5 / (f + 194), density RHO / f at the film temperature f
# in K.
MU = 1.716e-5 * 383.55 / 273.15**1.5
KAPPA = 0.0241 * 467.15 / 273.15**1.5
RHO = 101325 / 287.05
PRANDTL = 1007 * MU / KAPPA  # times (f + 194) / (f + 110.4)
RAYLEIGH = 9.80665 * PRANDTL * (RHO / MU) ** 2  # times dT d^3 (f + 194)(f + 110.4) / f^6
RAYLEIGH_6 = RAYLEIGH ** (1 / 6)


def natural_h(d_m: ArrayLike, surface_c: ArrayLike, ambient_c: ArrayLike) -> Array:
    """Coefficient of natural convection of a horizontal cylinder of a diameter in metres, W/(m2.K)."""
    ts, ta = np.asarray(surface_c, float), np.asarray(ambient_c, float)
    d = np.asarray(d_m, float)
    return _convection(d, d**3, (ts + ta) / 2 + STEFAN_K, np.maximum(ts - ta, 1e-9))[0]


def _convection(d: Array, d3: Array, film: Array, over: Array) -> tuple[Array, Array, Array, Array, Array]:
    """The coefficient, and what its slope is made of: film + 194, film + 110.4, the sixth root's part, x of the Prandtl
    term."""
    p, q = film + 194, film + 110.4
    x = (0.559 / PRANDTL * q / p) ** (9 / 16)
    root = np.cbrt(np.sqrt(over * d3 * p * q)) * (0.387 * RAYLEIGH_6) / (film * (1 + x) ** (8 / 27))
    whole = 0.60 + root
    return whole * whole * (KAPPA * film) * np.sqrt(film) / (p * d), p, q, root, x


def surface_loss_w_per_m(od_mm: ArrayLike, surface_c: ArrayLike, ambient_c: ArrayLike) -> Array:
    """Heat that a horizontal cylinder gives off to still air, W per metre (convection and radiation)."""
    d = np.asarray(od_mm, float) / 1000
    ts, ta = np.asarray(surface_c, float), np.asarray(ambient_c, float)
    hot, cold = (ts + STEFAN_K) ** 2, (ta + STEFAN_K) ** 2
    radiated = EMISSIVITY * SIGMA * (hot * hot - cold * cold)
    return np.asarray(np.pi * d * (natural_h(d, ts, ta) * (ts - ta) + radiated))


class Cylinders:
    """Cylinders in their air, with what does not change while their surfaces are sought."""

    def __init__(self, od_mm: Array, ambient_c: Array) -> None:
        self.d = od_mm / 1000
        self.d3, self.perimeter, self.air_k = self.d**3, np.pi * self.d, ambient_c + STEFAN_K
        self.cold = self.air_k**4

    def loss(self, rise: Array) -> Array:
        """Heat given off at a rise of the surface above the air."""
        h = _convection(self.d, self.d3, self.air_k + rise / 2, rise)[0]
        hot = (self.air_k + rise) ** 2
        return np.asarray(self.perimeter * (h * rise + EMISSIVITY * SIGMA * (hot * hot - self.cold)))

    def loss_and_slope(self, rise: Array) -> tuple[Array, Array]:
        """Heat given off at a rise of the surface above the air, and how it grows with the rise."""
        film = self.air_k + rise / 2
        h, p, q, root, x = _convection(self.d, self.d3, film, rise)
        # d ln(h) / d(rise) times the rise: a sixth by the rise itself, the rest by the air's properties at the film.
        in_p, in_q, in_film = 1 / p, 1 / q, 1 / film
        sixth = (in_p + in_q - 6 * in_film - x / (1 + x) * (in_q - in_p)) / 12
        bend = 2 * root / (0.60 + root) * (1 / 6 + rise * sixth) + rise * (1.5 * in_film - in_p) / 2
        hot = self.air_k + rise
        hot3 = hot * hot * hot * (EMISSIVITY * SIGMA)
        return (self.perimeter * (h * rise + hot3 * hot - EMISSIVITY * SIGMA * self.cold),
                self.perimeter * (h * (1 + bend) + 4 * hot3))


def settled_rise_k(od_mm: ArrayLike, ambient_c: ArrayLike, made_w_per_m: ArrayLike, more_w_per_mk: ArrayLike = 0.0,
                   near_k: Array | None = None) -> Array:
    """How far above the air a surface settles that makes `made` watts per metre at the air's temperature and `more` for
    each kelvin.

    Newton's steps with the analytic slope, elementwise. Heat given off grows faster than the rise, so a step from the
    cold side lands on the hot side, and from there they close in on the one balance there is; RUNAWAY_C where it lies
    beyond. `near_k` is where to begin: it saves steps and changes no answer.
    """
    od, ta, made, more = np.broadcast_arrays(*(np.asarray(v, float)
                                               for v in (od_mm, ambient_c, made_w_per_m, more_w_per_mk)))
    air = Cylinders(od, ta)
    rise = np.minimum(made / (air.perimeter * FIRST_GUESS_H), RUNAWAY_C)
    if near_k is not None:
        rise = np.where((near_k > 1e-3) & (near_k < RUNAWAY_C), near_k, rise)
    rise = np.maximum(rise, LEAST_RISE_K)
    for _ in range(MOST_STEPS):
        loss, slope = air.loss_and_slope(rise)
        steep = slope - more
        if steep.size and steep.min() <= 0:
            # Where more heat comes with a kelvin than goes with it, the balance lies further up.
            fresh = np.where(steep > 0, rise - (loss - made - more * rise) / np.where(steep > 0, steep, 1.0),
                             4 * rise + 1)
        else:
            fresh = rise - (loss - made - more * rise) / steep
        fresh = np.minimum(np.maximum(fresh, LEAST_RISE_K), RUNAWAY_C)
        moved = np.abs(fresh - rise).max() if fresh.size else 0.0
        rise = fresh
        if moved < SETTLED_K:
            break
    return np.asarray(np.where(made > 0, rise, 0.0))
