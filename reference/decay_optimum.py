"""The Bayes-optimal answer to "is there a leak that matters?" under core/src/vacuum/prior.json, for drawn decays.

    cargo run --release -p ruhe-core --example decays -- 2000 200000 decays.jsonl
    python reference/decay_optimum.py decays.jsonl

Written apart from the judge and in another way: sizes are integrated by quadrature over their own density (the judge
sums over combs of normal distributions), time constants and noise lie on finer grids, the drift of temperature is
summed over and moves gas and vapour together. Shared approximations: block means, digits as an error that lasts until
the reading has moved on by one, and half a normal distribution for the ends' unevenness by its mean and deviation.
Needs numpy and scipy."""

import json
import sys

import numpy as np
from scipy.linalg import solve_triangular

P = json.load(open(__file__.rsplit("/", 1)[0] + "/../core/src/vacuum/prior.json"))
LIMIT, AT = 500.0, 600.0
GL_X, GL_W = np.polynomial.legendre.leggauss(14)
HERMITE_X, HERMITE_W = np.polynomial.hermite_e.hermegauss(7)


def middles(ends, n):
    a, b = ends
    return a * (b / a) ** ((np.arange(n) + 0.5) / n)


def blocks(t, v, most=110):
    edges = t[0] + (t[-1] - t[0]) * (np.arange(1, most + 1) / most) ** 1.6
    k = np.searchsorted(edges[:-1], t, side="right")
    ids, start, count = np.unique(k, return_index=True, return_counts=True)
    mean = lambda x: np.add.reduceat(x, start) / count
    last = start + count - 1
    width = (t[last] - t[start]) * count / np.maximum(count - 1, 1)
    return mean(t), mean(v), width, count


def covariance(t, v, width, count, wander, fast, digit, dithered):
    walk = (
        wander**2
        / 60
        * np.outer(v, v)
        * np.maximum(np.minimum.outer(t, t) - t[0] - np.diag(width / 6), 0)
    )
    c = walk + np.diag(
        ((fast * v) ** 2 + (digit**2 / 12 if dithered else 0)) / count
        + 1e-8 * v[0] ** 2
    )
    if not dithered:
        span, moved = t[-1] - t[0], abs(v[-1] - v[0])
        stays = max(min(span * digit / max(moved, digit), span / 2), 1)
        c += digit**2 / 12 * np.exp(-np.abs(np.subtract.outer(t, t)) / stays)
    return c


def averaged(f, t, width):
    off = 0.5 * width * np.sqrt(0.6)
    return (5 * f(np.maximum(t - off, 0)) + 8 * f(t) + 5 * f(t + off)) / 18


def pieces(mean, sd, low, high):
    """Nodes and weights of the density 1/(x ln(high/low)) on [low, high], where a normal distribution has its mass."""
    a = np.clip(mean - 7 * sd, low, high)
    b = np.clip(mean + 7 * sd, low, high)
    a = np.where(b <= low, low, np.minimum(a, high * 0.999))
    b = np.maximum(b, np.minimum(a + 1e-3 * a + 7 * sd * (mean < low), high))
    x = 0.5 * (a + b)[..., None] + 0.5 * (b - a)[..., None] * GL_X
    return x, 0.5 * (b - a)[..., None] * GL_W


def saturation_micron(kelvin):
    c = kelvin - 273.15
    return 611.2 * np.exp(17.62 * c / (243.12 + c)) / 0.133322368


def optimum(case):
    t, v = np.array(case["t"]), np.array(case["v"])
    first, digit = case["first"], case["digit"]
    negligible = max(2 * digit, 0.05 * (LIMIT - first))
    slow, matters = negligible / AT, case["matters"]  # micron/s, micron/min
    step = (t[-1] - t[0]) / (len(t) - 1)
    second = np.diff(v, 2)
    seen = np.sqrt(np.mean(second**2) / 6) if len(second) else 0
    dithered = seen >= 0.4 * digit
    b = blocks(t, v)
    bt, bv, width, count = b
    kelvin = case["kelvin"] or 293.15
    if case["drift"] is not None:
        ks, kw = np.array([case["drift"]]), np.array([1.0])
    else:
        ks, kw = HERMITE_X * P["drift_k_per_h"]["sd"], HERMITE_W / HERMITE_W.sum()
    evening, levelling = middles(P["evening_s"], 7), middles(P["levelling_s"], 22)
    t0 = case["evacuated"]
    cols = [np.ones_like(bt), bt]
    cols += [averaged(lambda x, q=q: np.exp(-x / q), bt, width) for q in evening]
    cols += [averaged(lambda x, q=q: 1 - np.exp(-x / q), bt, width) for q in levelling]
    cols += [
        averaged(lambda x, q=q: x - q * (1 - np.exp(-x / q)), bt, width)
        for q in levelling
    ]
    cols += [
        (np.sqrt(t0 + bt) - np.sqrt(t0)) / (np.sqrt(t0 + 600) - np.sqrt(t0)),
        np.log1p(bt / t0) / np.log1p(600 / t0),
    ]
    cols += [bv - first]
    cols = np.array(cols).T
    ne, nl = len(evening), len(levelling)
    sd_f = P["uneven"]["sd_share"] * first + P["uneven"]["sd_micron"]
    mean_f, sd_f = {
        None: (0.0, sd_f),
        True: (-0.8 * sd_f, 0.6 * sd_f),
        False: (0.8 * sd_f, 0.6 * sd_f),
    }[case["near"]]
    out = []  # (log weight, of which above)
    for wander in middles(P["wander_per_root_min"], 5):
        for fast in middles(P["fast"], 8):
            c = covariance(*b, wander, fast, digit, dithered)
            lower = np.linalg.cholesky(c)
            g = solve_triangular(lower, cols, lower=True)
            g = g.T @ g
            log_noise = -np.log(np.diag(lower)).sum()
            out += weigh(
                g,
                ne,
                nl,
                ks,
                kw,
                log_noise,
                first,
                kelvin,
                mean_f,
                sd_f,
                slow,
                matters / 60,
                negligible,
                case,
            )
    logs = np.array([o[0] for o in out])
    top = logs.max()
    w = np.exp(logs - top)
    return float((w * np.array([o[1] for o in out])).sum() / w.sum())


def weigh(
    g,
    ne,
    nl,
    ks,
    kw,
    log_noise,
    first,
    kelvin,
    mean_f,
    sd_f,
    slow,
    matters,
    negligible,
    case,
):
    y, out = g.shape[0] - 1, []
    share = P["causes"]
    leaks = P["leak_micron_per_min"]
    fastest, gross = leaks["to"] / 60, leaks["gross"]
    # Combinations of evening time, shape and drift, flattened.
    kinds = (
        [("none", np.zeros(1, int))]
        + [("lev", np.arange(nl))]
        + [("bend", np.arange(2))]
    )
    for kind, which in kinds:
        e, m, k = (
            x.ravel()
            for x in np.meshgrid(
                np.arange(ne), which, np.arange(len(ks)), indexing="ij"
            )
        )
        drift, ev = ks[k], 2 + e
        if kind == "lev":
            parts = [
                (2 + ne + m, np.ones(len(m))),
                (2 + ne + nl + m, P["vapour_per_k"] / 3600 * drift),
            ]
        elif kind == "bend":
            parts = [(2 + ne + 2 * nl + m, np.ones(len(m)))]
        else:
            parts = []
        target = [
            (np.full(len(m), y), np.ones(len(m))),
            (np.ones(len(m), int), -drift * first / (3600 * kelvin)),
            (ev, np.full(len(m), -mean_f)),
        ]
        line = [(np.ones(len(m), int), np.ones(len(m)))]
        level, even = [(np.zeros(len(m), int), np.ones(len(m)))], [
            (ev, np.ones(len(m)))
        ]

        def dot(p, q):
            return (
                sum(g[i, j] * a * b for i, a in p for j, b in q)
                if p and q
                else np.zeros(len(m))
            )

        # The level (flat within 10 times itself) and the evening out are integrated exactly.
        aa = dot(level, level) + 1 / (10 * first) ** 2
        bb, ab = dot(even, even) + 1 / sd_f**2, dot(level, even)
        det = aa * bb - ab**2

        def left(p, q):
            pl, pe, ql, qe = dot(p, level), dot(p, even), dot(q, level), dot(q, even)
            return (
                dot(p, q)
                - (bb * pl * ql - ab * (pl * qe + pe * ql) + aa * pe * qe) / det
            )

        yy, ys, ss = left(target, target), left(target, line), left(line, line)
        base = (
            log_noise
            - 0.5 * np.log(det)
            - np.log(sd_f)
            + np.log(kw[k])
            - np.log(ne)
            - 0.5 * yy
        )
        ms, my, mm = left(parts, line), left(parts, target), left(parts, parts)
        log_leak = np.log(np.log(fastest / slow))

        def leak_only(log_share, base, ys, ss, slow, fastest):
            x, w = pieces(ys / ss, 1 / np.sqrt(ss), slow, fastest)
            log_leak = np.log(np.log(fastest / slow))
            f = (
                base[:, None]
                + log_share
                - log_leak
                + ys[:, None] * x
                - 0.5 * ss[:, None] * x**2
                - np.log(x)
            )
            return split(f, w, x)

        def split(f, w, x):
            top = f.max()
            e = np.exp(f - top) * w
            z = e.sum()
            return (
                top + np.log(max(z, 1e-300)),
                (e * (x >= matters)).sum() / max(z, 1e-300),
            )

        if kind == "none":
            out.append((np.logaddexp.reduce(base) + np.log(share["still"]), 0.0))
            out.append(
                leak_only(
                    np.log(share["leak"] * (1 - gross["share"])),
                    base,
                    ys,
                    ss,
                    slow,
                    fastest,
                )
            )
            out.append(
                leak_only(
                    np.log(share["leak"] * gross["share"]),
                    base,
                    ys,
                    ss,
                    fastest,
                    gross["to"] / 60,
                )
            )
            continue
        most = P["rise_micron"]["to"]
        bands = {
            "lev": [("moisture", "leak_and_moisture", negligible, most)],
            "bend": [("outgassing", "leak_and_outgassing", negligible, most)],
        }[kind]
        if kind == "lev":
            low, high = P["water_band"]["ends"]
            s = (
                (saturation_micron(case["kelvin"]),) * 2
                if case["kelvin"]
                else (800 / 0.1333, 4200 / 0.1333)
            )
            bands = bands + [("water", None, low * s[0], high * s[1])]
        for alone, with_leak, low, high in bands:
            even_share = -np.log(len(which)) - np.log(np.log(high / low))
            a, w = pieces(my / mm, 1 / np.sqrt(mm), low, high)
            f = (
                base[:, None]
                + even_share
                + my[:, None] * a
                - 0.5 * mm[:, None] * a**2
                - np.log(a)
            )
            out.append(
                (
                    np.log(max((np.exp(f - f.max()) * w).sum(), 1e-300))
                    + f.max()
                    + np.log(share[alone]),
                    0.0,
                )
            )
            if not with_leak:
                continue
            # Outer: the leak, with the other size at its best; inner: the other size given the leak.
            s2 = np.maximum(ss - ms**2 / mm, 1e-30)
            y2 = ys - ms * my / mm
            # Where the other size would have to be negative the leak's own fit counts too: cover both.
            for_mean, for_sd = y2 / s2, 1 / np.sqrt(s2)
            alone_mean, alone_sd = ys / ss, 1 / np.sqrt(ss)
            lo = np.minimum(for_mean - 7 * for_sd, alone_mean - 7 * alone_sd)
            hi = np.maximum(for_mean + 7 * for_sd, alone_mean + 7 * alone_sd)
            # The leak in two spans, below and above what matters, each by its logarithm.
            for a0, b0 in (
                (slow, min(matters, fastest)),
                (min(matters, fastest), fastest),
            ):
                if b0 <= a0:
                    continue
                a1, b1 = np.clip(lo, a0, b0), np.clip(hi, a0, b0)
                ok = b1 > a1
                if not ok.any():
                    continue
                u = (
                    0.5 * (np.log(a1) + np.log(b1))[:, None]
                    + 0.5 * (np.log(b1) - np.log(a1))[:, None] * GL_X
                )
                wl = 0.5 * (np.log(b1) - np.log(a1))[:, None] * GL_W
                x = np.exp(u)[ok]
                rest, mmo = my[ok][:, None] - ms[ok][:, None] * x, mm[ok][:, None]
                an, aw = pieces(
                    rest / mmo, np.broadcast_to(1 / np.sqrt(mmo), x.shape), low, high
                )
                inner = rest[..., None] * an - 0.5 * mmo[..., None] * an**2 - np.log(an)
                f = (
                    (
                        base[ok][:, None]
                        + ys[ok][:, None] * x
                        - 0.5 * ss[ok][:, None] * x**2
                    )[..., None]
                    + inner
                    + even_share
                    - log_leak
                )
                top = f.max()
                z = (np.exp(f - top) * aw * wl[ok][..., None]).sum()
                out.append(
                    (
                        top + np.log(max(z, 1e-300)) + np.log(share[with_leak]),
                        1.0 if a0 >= matters else 0.0,
                    )
                )
    return out


def main():
    rows = []
    cases = [json.loads(line) for line in open(sys.argv[1])]
    part = (
        slice(*(int(a) if a else None for a in sys.argv[2].split(":")))
        if len(sys.argv) > 2
        else slice(None)
    )
    for case in cases[part]:
        rows.append(
            (
                case["p"],
                optimum(case),
                case["leak"] >= case["matters"],
                case["seed"],
                case["cause"],
            )
        )
    p, q, truth = (np.array([r[i] for r in rows], float) for i in range(3))
    ece = lambda x: sum(
        abs(x[s].sum() - truth[s].sum())
        for s in (np.minimum((x * 10).astype(int), 9) == k for k in range(10))
    ) / len(x)
    sure = np.maximum(q, 1 - q) >= 0.99
    right = (p > 0.5) == (q > 0.5)
    true = (p > 0.5) == (truth > 0.5)
    unsure = (q > 0.05) & (q < 0.95)
    print(
        f"n {len(p)}; optimum sure (99 %) in {sure.sum()}; there Ruhe agrees in {100 * right[sure].mean():.1f} %, is right in {100 * true[sure].mean():.1f} %, is itself sure (99 %) in {100 * (np.maximum(p, 1 - p)[sure] >= 0.99).mean():.1f} %"
    )
    print(
        f"calibration error: Ruhe {ece(p):.4f}, optimum {ece(q):.4f}; mean |difference| {np.abs(p - q).mean():.4f}"
    )
    claims = np.maximum(p, 1 - p) >= 0.99
    print(
        f"optimum unsure (5-95 %) in {unsure.sum()}; there Ruhe claims 99 % in {claims[unsure].sum()}"
    )
    for r in sorted(rows, key=lambda r: -abs(r[0] - r[1]))[:12]:
        print(
            "  seed %d %s: Ruhe %.3f, optimum %.3f, truth %s"
            % (r[3], r[4], r[0], r[1], bool(r[2]))
        )


if __name__ == "__main__":
    main()
