"""Makes the static fonts of the paper record: the page's own faces for Latin, and behind them a wide family for Greek,
Cyrillic and the Latin of Vietnam, in one file a face. Only for remaking them. Needs fonttools and brotli, and a folder into
which `npm i @fontsource-variable/noto-sans @fontsource-variable/noto-sans-mono` was run:

    python make_fonts.py FOLDER
"""

import pathlib, sys, tempfile
from fontTools.merge import Merger
from fontTools.ttLib import TTFont
from fontTools.ttLib.scaleUpem import scale_upem
from fontTools.varLib.instancer import instantiateVariableFont

here = pathlib.Path(__file__).parent
own = here.parent.parent / "web" / "node_modules" / "@fontsource-variable"
wide = pathlib.Path(sys.argv[1]) / "node_modules" / "@fontsource-variable"
LATIN, FURTHER = ["latin", "latin-ext"], [
    "greek",
    "greek-ext",
    "cyrillic",
    "cyrillic-ext",
    "vietnamese",
]


def part(path, weight, em, known):
    f = TTFont(path)
    f.flavor = None
    f = instantiateVariableFont(
        f,
        {
            a.axisTag: weight if a.axisTag == "wght" else a.defaultValue
            for a in f["fvar"].axes
        },
    )
    for table in [
        "GSUB",
        "GPOS",
        "GDEF",
        "STAT",
        "avar",
        "HVAR",
        "MVAR",
        "MATH",
        "BASE",
    ]:
        if table in f:
            del f[table]
    # A letter that an earlier part has stays that one's.
    for table in f["cmap"].tables:
        table.cmap = {c: g for c, g in table.cmap.items() if c not in known}
    known |= set(f.getBestCmap())
    if f["head"].unitsPerEm != em:
        scale_upem(f, em)
    out = pathlib.Path(tempfile.mkdtemp()) / (path.stem + ".ttf")
    f.save(out)
    return str(out)


for family, behind, weight, out in [
    ("next", "noto-sans", 400, "regular"),
    ("next", "noto-sans", 700, "bold"),
    ("mono", "noto-sans-mono", 450, "mono"),
]:
    name = f"atkinson-hyperlegible-{family}"
    files = [own / name / "files" / f"{name}-{s}-wght-normal.woff2" for s in LATIN]
    files += [
        wide / behind / "files" / f"{behind}-{s}-wght-normal.woff2" for s in FURTHER
    ]
    em, known = TTFont(files[0])["head"].unitsPerEm, set()
    Merger().merge([part(f, weight, em, known) for f in files]).save(
        here / f"{out}.ttf"
    )
