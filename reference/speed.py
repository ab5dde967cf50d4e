"""The hold's regression as a numpy/scipy script of the same method, for comparing speed in one run.

Needs numpy and scipy. `python reference/speed.py` prints the time of one judgement of 345 600 readings; run
`cargo bench -p ruhe-core` beside it. It thins, corrects with the same equation of state, and sums over the same
number of lags, transients, noise colours and sizes; the answer is that of the model without words.
"""

import time
import numpy as np
from scipy.linalg import cholesky, solve_triangular

C = np.array(
    [
        [4.0776180503e-02, -9.4999936306e-02, -1.3672092680e-01, 4.1905690715e-02],
        [1.4438049887e-03, -2.6697062200e-03, 8.2170980389e-03, -2.3583859033e-03],
        [-3.9257517900e-05, 5.9421183671e-04, -1.9148830229e-03, 1.8946262073e-03],
        [1.1384459109e-07, 4.5964535287e-06, 1.7200136240e-05, -6.6567508287e-05],
        [2.9278801560e-07, -2.2074919990e-06, 5.4526587489e-06, -3.2261780720e-06],
    ]
)
R = 8.314462618


def density(p, t):
    x = 100 / t
    b = [c[0] + x * (c[1] + x * (c[2] + x * c[3])) for c in C]
    d = p / (1000 * R * t)
    for _ in range(5):
        z = 1 + d * (b[0] + d * (b[1] + d * (b[2] + d * (b[3] + d * b[4]))))
        dz = 1 + d * (
            2 * b[0] + d * (3 * b[1] + d * (4 * b[2] + d * (5 * b[3] + d * 6 * b[4])))
        )
        d = d - (1000 * R * t * d * z - p) / (1000 * R * t * dz)
    return d


def lagged(t, u, lag):
    if lag <= 0:
        return u + abs(lag) * np.gradient(u, t)
    out = np.zeros_like(u)
    for i in range(1, len(u)):
        k = np.exp(-(t[i] - t[i - 1]) / lag)
        out[i] = k * out[i - 1] + (1 - k) * u[i]
    return out


def judge(t, p, temps, shares, n=120):
    early = (
        t[0] + 5400
    )  # fine blocks while the filling still fades, coarse ones afterwards
    edges = np.concatenate(
        [np.linspace(t[0], early, 51)[:-1], np.linspace(early, t[-1], n - 49)]
    )
    which = np.clip(np.searchsorted(edges, t, "right") - 1, 0, n - 1)
    count = np.bincount(which, minlength=n)
    mean = lambda v: np.bincount(which, v, n) / count
    tb, pb, temps = mean(t), mean(p), [mean(x) for x in temps]
    amount = lambda q, at: sum(w * density(q, x) for w, x in zip(shares, at))
    start = [np.full(n, x[0]) for x in temps]
    held, c = amount(pb, temps), pb.copy()
    for _ in range(4):
        c = c - (amount(c, start) - held) / (
            (amount(c + 100, start) - amount(c - 100, start)) / 200
        )
    u, raw, s = pb - c, pb - pb[0], tb - tb[0]
    dur, width = s[-1], np.diff(edges)
    best = []
    lags = [
        (-300, -120),
        (-120, 0),
        (0, 120),
        (120, 300),
        (300, 600),
        (600, 1200),
        (1200, 2000),
        (2000, 2800),
        (2800, 3800),
    ]
    taus = (80, 140, 230, 370, 600)
    cols = [np.ones(n), -s / dur, temps[0] - temps[0][0], 1 - np.exp(-s / 900)]
    parts = [pb[0] / 294 * (x - x[0]) - u for x in temps[1:]]
    cols += parts
    first = len(cols)
    for tau in taus:
        cols += [np.exp(-s / tau), np.exp(-s / (2 * tau))]
    for a, b in lags:
        x, y = lagged(s, u, a), lagged(s, u, b)
        cols += [(x + y) / 2, x - y, np.exp(-s / max(abs(a + b) / 2, 30))]
    lag0 = first + 2 * len(taus)
    X = np.column_stack(cols + [raw])
    for tc in (25, 80, 250, 800, dur / 3):
        g = width / tc
        e = (1 - np.exp(-g)) / g
        K = np.outer(e, e) * np.exp(
            -np.maximum(
                np.abs(s[:, None] - s[None]) - 0.5 * (width[:, None] + width[None]), 0
            )
            / tc
        )
        np.fill_diagonal(K, 2 * (g - 1 + np.exp(-g)) / g**2)
        for white in (0, 3, 80):
            L = cholesky(K + np.diag(white / count + 1e-9), lower=True)
            Z = solve_triangular(L, X, lower=True)
            G, ld = Z.T @ Z, 2 * np.log(np.diag(L)).sum()
            for k in range(16):
                scale = 1.5e-5 * pb[0] * 1.45**k
                for i in range(len(lags)):
                    for j in range(len(taus)):
                        idx = [
                            0,
                            1,
                            2,
                            lag0 + 3 * i,
                            first + 2 * j,
                            first + 2 * j + 1,
                            3,
                            lag0 + 3 * i + 1,
                            lag0 + 3 * i + 2,
                            *range(4, first),
                        ]
                        sd = np.array(
                            [1e6, 0.1 * pb[0], 1100, 0.07, 500, 100, 1100, 0.35, 2000]
                            + [0.1] * len(parts)
                        )
                        mu = np.zeros(len(idx))
                        mu[3] = 1
                        A = G[np.ix_(idx, idx)] / scale**2 + np.diag(sd**-2.0)
                        b = G[idx, -1] / scale**2 + mu / sd**2
                        f = np.linalg.cholesky(A)
                        z = np.linalg.solve(f, b)
                        ev = -0.5 * (
                            n * np.log(scale**2)
                            + ld
                            + G[-1, -1] / scale**2
                            - z @ z
                            + 2 * np.log(np.diag(f)).sum()
                        )
                        best.append((ev, np.linalg.solve(f.T, z)[1] / dur))
    ev, loss = np.array(best).T
    w = np.exp(ev - ev.max())
    return (w * loss).sum() / w.sum()


rng = np.random.default_rng(1)
t = np.arange(86_400.0)
temps = [
    294 + k * 5 * np.sin(2 * np.pi * t / 86_400) + rng.normal(0, 0.05, t.size)
    for k in (1, 0.8, 1.2)
]
p = 3.5e6 * (
    1 + (sum(w * x for w, x in zip((0.4, 0.3, 0.3), temps)) / 294 - 1)
) + rng.normal(0, 300, t.size)
started = time.perf_counter()
judge(t, p, temps, (0.4, 0.3, 0.3))
print(f"numpy/scipy: {1e3 * (time.perf_counter() - started):.0f} ms")
