"""Makes the static fonts of the paper record from the variable ones of the page. Only for remaking them. Needs fonttools and brotli."""
import pathlib, tempfile
from fontTools.ttLib import TTFont
from fontTools.varLib.instancer import instantiateVariableFont
from fontTools.merge import Merger

here = pathlib.Path(__file__).parent
files = here.parent.parent / "web" / "node_modules" / "@fontsource-variable"
for family, weight, out in [("next", 400, "regular"), ("next", 700, "bold"), ("mono", 450, "mono")]:
    parts = []
    for subset in ["latin", "latin-ext"]:
        f = TTFont(files / f"atkinson-hyperlegible-{family}" / "files" / f"atkinson-hyperlegible-{family}-{subset}-wght-normal.woff2")
        f.flavor = None
        f = instantiateVariableFont(f, {"wght": weight})
        for table in ["GSUB", "GPOS", "GDEF", "STAT", "avar", "HVAR", "MVAR"]:
            if table in f: del f[table]
        path = pathlib.Path(tempfile.mkdtemp()) / f"{subset}.ttf"
        f.save(path)
        parts.append(str(path))
    merged = Merger().merge(parts)
    merged.save(here / f"{out}.ttf")
