"""Makes the check tables in this folder. Only for remaking them: never needed to build, run or test Ruhe.

Needs (in a venv): CoolProp 8.0, iapws 1.5, ambiance 1.3, numpy, scipy.

nitrogen.csv     density of nitrogen, CoolProp: Span, Lemmon, Jacobsen, Wagner & Yokozeki (2000),
                 J. Phys. Chem. Ref. Data 29, 1361.
nitrogen_fit.txt the virial-type coefficients in core/src/matter/nitrogen.rs, fitted here to that equation.
isochores.csv    gauge pressure change for +10 degF from 70 degF at constant density, same source.
water.csv        saturation of water (IAPWS-IF97) and sublimation of ice (IAPWS R14-08(2011)), package iapws.
atmosphere.csv   US Standard Atmosphere 1976 below 5 km, package ambiance (ICAO 1993, the same there).
refrigerants.csv saturation (dew point; bubble point in the last columns) and transport figures, CoolProp.
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
        w = csv.writer(f, lineterminator="\n"); w.writerow(header); w.writerows(rows)

rows = []
for t in range(-40, 81, 10):
    for bar in [0.5, 1, 2, 5, 10, 15, 20, 25, 30, 35, 40, 45, 100, 200, 310]:
        rows.append([t, bar, f"{PropsSI('D', 'T', t + 273.15, 'P', bar * 1e5, 'Nitrogen'):.7g}"])
write("nitrogen.csv", ["celsius", "bar", "kg_per_m3"], rows)

rows = []
for psig in [100, 150, 200, 300, 400, 500, 600]:
    p = psig * PSI + 101325
    rho = PropsSI('D', 'T', F(70), 'P', p, 'Nitrogen')
    rows.append([psig, f"{(PropsSI('P', 'T', F(80), 'D', rho, 'Nitrogen') - p) / PSI:.4f}"])
write("isochores.csv", ["psig", "psi_per_10_degF"], rows)

# Virial-type fit: Z = 1 + B rho + C rho^2 + D rho^3 + E rho^4 (rho in mol/L), each a cubic in 100 K/T.
R = 8.314462618
data = []
for t in np.linspace(228, 358, 27):
    for bar in np.concatenate([np.linspace(0.5, 60, 30), np.linspace(70, 320, 16)]):
        d = PropsSI('Dmolar', 'T', t, 'P', bar * 1e5, 'Nitrogen') / 1000
        data.append((t, d, bar * 1e5 / (d * 1000 * R * t)))
data = np.array(data)
x = 100 / data[:, 0]
cols = [data[:, 1] ** k * x ** j for k in range(1, 6) for j in range(4)]
A = np.array(cols).T
w = np.where(data[:, 1] < 2.2, 30.0, 1.0)
k, *_ = np.linalg.lstsq(A * w[:, None], (data[:, 2] - 1) * w, rcond=None)
err = A @ k - (data[:, 2] - 1)
low = data[:, 1] < 2.0
with open(here / "nitrogen_fit.txt", "w") as f:
    f.write(f"CoolProp {CoolProp.__version__}; residual of Z: {abs(err[low]).max():.1e} up to 45 bar, {abs(err).max():.1e} up to 320 bar\n")
    for i in range(5):
        f.write("[" + ", ".join(f"{v:.10e}" for v in k[4 * i:4 * i + 4]) + "],\n")

rows = [["ice", t, f"{_Sublimation_Pressure(t + 273.15) * 1e6:.6g}"] for t in [-50, -40, -30, -24.444444, -20, -12.222222, -10, -6.666667, -1]]
rows += [["water", t, f"{_PSat_T(t + 273.15) * 1e6:.6g}"] for t in [0.01, 4.444444, 10, 15.555556, 18.333333, 21.111111, 26.666667, 37.777778, 60, 80]]
write("water.csv", ["phase", "celsius", "pascal"], rows)

write("atmosphere.csv", ["metre", "pascal"], [[h, f"{Atmosphere(h).pressure[0]:.6g}"] for h in [0, 100, 500, 1000, 1609, 2000, 3000, 4000]])

# name, CoolProp name, ASHRAE 34 safety class
known = [("R-410A", "R410A", "A1"), ("R-32", "R32", "A2L"), ("R-454B", None, "A2L"), ("R-407C", "R407C", "A1"),
         ("R-134a", "R134a", "A1"), ("R-404A", "R404A", "A1"), ("R-22", "R22", "A1"), ("R-290", "R290", "A3"), ("R-1234yf", "R1234yf", "A2L")]
mu = lambda n, t: PropsSI('V', 'T', t, 'Q', 1, n) * 1e6
rows = []
for name, n, cls in known:
    # R-454B: 68.9 % R-32 and 31.1 % R-1234yf by mass (ASHRAE 34); the blend's viscosity is taken as R-32's.
    s = n
    if n is None:
        m32, myf = 0.052024, 0.114042
        x32 = (0.689 / m32) / (0.689 / m32 + 0.311 / myf)
        s = f"R32[{x32:.6f}]&R1234yf[{1 - x32:.6f}]"
    p = lambda c, s=s, q=1: PropsSI('P', 'T', c + 273.15, 'Q', q, s) / 1e3
    molar = PropsSI('M', s) if n else (x32 * m32 + (1 - x32) * myf)
    try: visc = mu(n or "R32", 280.0)
    except Exception: visc = 12.0
    rows.append([name, cls, f"{molar * 1000:.2f}", f"{p(5):.0f}", f"{p(10):.0f}", f"{p(21.1):.0f}", f"{p(45):.0f}", f"{p(50):.0f}", f"{visc:.1f}",
                 f"{p(5, q=0):.0f}", f"{p(21.1, q=0):.0f}", f"{p(45, q=0):.0f}"])
write("refrigerants.csv", ["name", "safety_class", "g_per_mol", "kpa_5c", "kpa_10c", "kpa_21c", "kpa_45c", "kpa_50c", "vapour_uPa_s",
      "kpa_bubble_5c", "kpa_bubble_21c", "kpa_bubble_45c"], rows)

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
    K = np.where(s > h / 4, F(np.maximum(s - h / 2, 0)) - F(s + h / 2), 2 * (F(0) - F(h / 2)))
    w = np.linalg.solve(np.eye(n) - K, F(length - x))
    rows.append([length, f"{1 - 2 * (F(x) * h).sum() + (2 * F(x) * w * h).sum():.5f}"])
write("conductance.csv", ["length_over_radius", "transmission"], rows)
