"""Makes the check tables in this folder. Only for remaking them: never needed to build, run or test Ruhe.

Needs (in a venv): CoolProp 8.0, iapws 1.5, ambiance 1.3, numpy, scipy.

nitrogen.csv     density of nitrogen, CoolProp: Span, Lemmon, Jacobsen, Wagner & Yokozeki (2000),
                 J. Phys. Chem. Ref. Data 29, 1361.
nitrogen_fit.txt the virial-type coefficients in core/src/matter/nitrogen.rs, fitted here to that equation.
isochores.csv    gauge pressure change for +10 degF from 70 degF at constant density, same source.
water.csv        saturation of water (IAPWS-IF97) and sublimation of ice (IAPWS R14-08(2011)), package iapws.
atmosphere.csv   US Standard Atmosphere 1976 below 5 km, package ambiance (ICAO 1993, the same there).
saturation.csv   dew and bubble pressures and densities of the refrigerants off the grid, CoolProp. The grid itself, which
                 Ruhe works with, is core/src/matter/refrigerant/saturation.csv, beside refrigerants.csv; both are made here too.
"""

import csv, pathlib
import numpy as np
from scipy.optimize import least_squares
import CoolProp
from CoolProp.CoolProp import PropsSI
from iapws.iapws97 import _PSat_T
from iapws._iapws import _Sublimation_Pressure
from ambiance import Atmosphere

here = pathlib.Path(__file__).parent
PSI = 6894.757293168361
F = lambda f: (f - 32) / 1.8 + 273.15


def write(name, header, rows):
    with open(here / name, "w", newline="") as f:
        w = csv.writer(f, lineterminator="\n")
        w.writerow(header)
        w.writerows(rows)


rows = []
for t in range(-40, 81, 10):
    for bar in [0.5, 1, 2, 5, 10, 15, 20, 25, 30, 35, 40, 45, 100, 200, 310]:
        rows.append(
            [t, bar, f"{PropsSI('D', 'T', t + 273.15, 'P', bar * 1e5, 'Nitrogen'):.7g}"]
        )
write("nitrogen.csv", ["celsius", "bar", "kg_per_m3"], rows)

rows = []
for psig in [100, 150, 200, 300, 400, 500, 600]:
    p = psig * PSI + 101325
    rho = PropsSI("D", "T", F(70), "P", p, "Nitrogen")
    rows.append(
        [psig, f"{(PropsSI('P', 'T', F(80), 'D', rho, 'Nitrogen') - p) / PSI:.4f}"]
    )
write("isochores.csv", ["psig", "psi_per_10_degF"], rows)

# Virial-type fit: Z = 1 + B rho + C rho^2 + D rho^3 + E rho^4 (rho in mol/L), each a cubic in 100 K/T.
R = 8.314462618
data = []
for t in np.linspace(228, 358, 27):
    for bar in np.concatenate([np.linspace(0.5, 60, 30), np.linspace(70, 320, 16)]):
        d = PropsSI("Dmolar", "T", t, "P", bar * 1e5, "Nitrogen") / 1000
        data.append((t, d, bar * 1e5 / (d * 1000 * R * t)))
data = np.array(data)
x = 100 / data[:, 0]
cols = [data[:, 1] ** k * x**j for k in range(1, 6) for j in range(4)]
A = np.array(cols).T
w = np.where(data[:, 1] < 2.2, 30.0, 1.0)
k, *_ = np.linalg.lstsq(A * w[:, None], (data[:, 2] - 1) * w, rcond=None)
err = A @ k - (data[:, 2] - 1)
low = data[:, 1] < 2.0
with open(here / "nitrogen_fit.txt", "w") as f:
    f.write(
        f"CoolProp {CoolProp.__version__}; residual of Z: {abs(err[low]).max():.1e} up to 45 bar, {abs(err).max():.1e} up to 320 bar\n"
    )
    for i in range(5):
        f.write("[" + ", ".join(f"{v:.10e}" for v in k[4 * i : 4 * i + 4]) + "],\n")

rows = [
    ["ice", t, f"{_Sublimation_Pressure(t + 273.15) * 1e6:.6g}"]
    for t in [-50, -40, -30, -24.444444, -20, -12.222222, -10, -6.666667, -1]
]
rows += [
    ["water", t, f"{_PSat_T(t + 273.15) * 1e6:.6g}"]
    for t in [
        0.01,
        4.444444,
        10,
        15.555556,
        18.333333,
        21.111111,
        26.666667,
        37.777778,
        60,
        80,
    ]
]
write("water.csv", ["phase", "celsius", "pascal"], rows)

write(
    "atmosphere.csv",
    ["metre", "pascal"],
    [
        [h, f"{Atmosphere(h).pressure[0]:.6g}"]
        for h in [0, 100, 500, 1000, 1609, 2000, 3000, 4000]
    ],
)

# Refrigerants: ASHRAE number, CoolProp's name (predefined mixtures have .mix), ASHRAE 34 safety class (from memory).
# R-438A is left out: CoolProp has no composition for it.
known = [
    ("R-410A", "R410A", "A1"),
    ("R-32", "R32", "A2L"),
    ("R-454B", "R454B.mix", "A2L"),
    ("R-407C", "R407C", "A1"),
    ("R-134a", "R134a", "A1"),
    ("R-404A", "R404A", "A1"),
    ("R-22", "R22", "A1"),
    ("R-290", "R290", "A3"),
    ("R-1234yf", "R1234yf", "A2L"),
    ("R-454C", "R454C.mix", "A2L"),
    ("R-455A", "R455A.mix", "A2L"),
    ("R-452B", "R452B.mix", "A2L"),
    ("R-407A", "R407A.mix", "A1"),
    ("R-407F", "R407F.mix", "A1"),
    ("R-448A", "R448A.mix", "A1"),
    ("R-449A", "R449A.mix", "A1"),
    ("R-513A", "R513A.mix", "A1"),
    ("R-1234ze", "R1234ze(E)", "A2L"),
    ("R-507A", "R507A", "A1"),
    ("R-422D", "R422D.mix", "A1"),
    ("R-600a", "R600a", "A3"),
    ("R-744", "R744", "A1"),
]


def saturated(what, t, q, fluid):
    """At t, or where the solver fails there the geometric mean of a little below and above (within 0.002 K); None if that fails too."""
    for d in [0, 0.1, 0.2, 0.35, 0.5]:
        try:
            return (
                PropsSI(what, "T", t - d, "Q", q, fluid)
                * PropsSI(what, "T", t + d, "Q", q, fluid)
            ) ** 0.5
        except ValueError:
            pass


def point(fluid, celsius):
    """Dew and bubble pressure (kPa), liquid density at the bubble, vapour density at the dew point (kg/m3)."""
    out = [
        saturated(what, celsius + 273.15, q, fluid)
        for what, q in [("P", 1), ("P", 0), ("D", 0), ("D", 1)]
    ]
    return None if None in out else [out[0] / 1e3, out[1] / 1e3, out[2], out[3]]


def viscosity(fluid):
    """Vapour at 280 K, uPa s; of a blend the mean by mole of its parts, since CoolProp has no mixing rule for it."""
    try:
        return PropsSI("V", "T", 280.0, "Q", 1, fluid) * 1e6
    except ValueError:
        pass
    from CoolProp.CoolProp import AbstractState

    s = AbstractState("HEOS", fluid)
    parts = []
    for name, x in zip(s.fluid_names(), s.get_mole_fractions()):
        try:
            parts.append((x, PropsSI("V", "T", 280.0, "Q", 1, name) * 1e6))
        except ValueError:
            pass
    return sum(x * v for x, v in parts) / sum(x for x, _ in parts)


matter = here.parent / "core" / "src" / "matter" / "refrigerant"
with open(matter / "refrigerants.csv", "w", newline="") as f:
    w = csv.writer(f, lineterminator="\n")
    w.writerow(["name", "safety_class", "g_per_mol", "vapour_uPa_s"])
    w.writerows(
        [name, cls, f"{PropsSI('M', n) * 1e3:.2f}", f"{viscosity(n):.1f}"]
        for name, n, cls in known
    )
# Every 5 K; the top point that the solver finds ends a curve.
with open(matter / "saturation.csv", "w", newline="") as f:
    w = csv.writer(f, lineterminator="\n")
    w.writerow(
        ["name", "celsius", "dew_kpa", "bubble_kpa", "liquid_kg_m3", "vapour_kg_m3"]
    )
    for name, n, _ in known:
        top = 30 if name == "R-744" else 65
        for c in range(-60, top + 1, 5):
            if p := point(n, c):
                w.writerow([name, c, *(f"{v:.6g}" for v in p)])
# To check against: off the grid.
rows = []
for name, n, _ in known:
    for c in [
        -47.3,
        -33.1,
        -18.8,
        -2.4,
        2.2222,
        7.2,
        13.9,
        21.1,
        28.6,
        36.7,
        43.3,
        51.1,
        57.7,
        63.2,
    ]:
        if p := point(n, c):
            rows.append([name, c, *(f"{v:.6g}" for v in p)])
write(
    "saturation.csv",
    ["name", "celsius", "dew_kpa", "bubble_kpa", "liquid_kg_m3", "vapour_kg_m3"],
    rows,
)

# Transmission of a tube by Clausing's integral equation (P. Clausing 1932): w(x) = F(L - x) + ∫ K(|x - y|) w(y) dy, radius 1,
# by Nyström's method on 3000 panels; F is the share a wall ring sends to an end disc, K = -dF/ds.
F = lambda s: (s * s / 4 + 0.5) / np.sqrt(s * s / 4 + 1) - s / 2
rows = []
for length in [0.1, 0.5, 1, 2, 4, 10, 20, 50, 100]:
    n = 3000
    h = length / n
    x = (np.arange(n) + 0.5) * h
    s = np.abs(x[:, None] - x[None, :])
    # Exact over a panel: ∫ K ds = F(s - h/2) - F(s + h/2); the ring itself twice the half panel.
    K = np.where(
        s > h / 4, F(np.maximum(s - h / 2, 0)) - F(s + h / 2), 2 * (F(0) - F(h / 2))
    )
    w = np.linalg.solve(np.eye(n) - K, F(length - x))
    rows.append([length, f"{1 - 2 * (F(x) * h).sum() + (2 * F(x) * w * h).sum():.5f}"])
write("conductance.csv", ["length_over_radius", "transmission"], rows)
