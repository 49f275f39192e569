"""Grounds with what a good plan of each may take, and plans drawn by hand. Knows nothing of the program: it only writes
job files. Run it to write plans.json anew."""

import json

FT = 0.3048


def points(pts):
    return [[round(x * FT, 4), round(y * FT, 4)] + list(bulge) for x, y, *bulge in pts]


def rect(x, y, w, h):
    return [(x, y), (x + w, y), (x + w, y + h), (x, y + h)]


def area(name, pts, kind="lawn", soil="loam"):
    what = {"is": "area", "kind": kind, "soil": soil, "shape": {"outline": points(pts)}}
    return {"id": name, "name": name, "what": what}


def dry(name, pts, kind="paving"):
    return {"id": name, "name": name, "what": {"is": "dry", "kind": kind, "form": {"region": {"outline": points(pts)}}}}


def height(name, x, y, h):
    return {"id": name, "what": {"is": "height", "at": points([(x, y)])[0], "height": f"{h} ft"}}


def supply(static, dynamic=None, pipe=("copper-l 1 1/4in", 40), meter="1in", device="vacuum-breaker"):
    reading = lambda measured, when: {"measured": measured, "when": when, "instrument": "", "place": ""}
    readings = [reading({"is": "static", "pressure": f"{static} psi"}, "2026-05-03 07:10")]
    if dynamic:
        measured = {"is": "dynamic", "flow": f"{dynamic[0]} gpm", "pressure": f"{dynamic[1]} psi"}
        readings.append(reading(measured, "2026-05-03 07:20"))
    parts = [
        {"is": "pipe", "pipe": pipe[0], "length": f"{pipe[1]} ft"},
        {"is": "meter", "size": meter},
        {"is": "device", "model": device},
    ]
    chain = [{"id": f"c{i}", "part": part} for i, part in enumerate(parts)]
    return {"id": "s1", "name": "Meter", "gauge_said": True, "readings": readings, "chain": chain}


def job(name, things, water, meter=(-2, -2)):
    place = {"is": "place", "kind": "meter", "at": points([meter])[0], "supply": "s1"}
    things = list(things) + [{"id": "p1", "what": place}]
    return {"format": "fenlo-job/1", "name": name, "units": "us", "site": {"things": things}, "supplies": [water]}


def head(nozzle, x, y, arc, facing, radius):
    return {"nozzle": nozzle, "at": points([(x, y)])[0], "arc": arc, "facing": facing, "radius": f"{radius} ft"}


OFF = 0.2


def grid(nozzle, w, h, nx, ny, radius, x0=0, y0=0):
    """Heads on a rectangle, nx along and ny across, a hand's breadth off the edge."""
    out = []
    for i in range(nx):
        for j in range(ny):
            x, y = OFF + i * (w - 2 * OFF) / (nx - 1), OFF + j * (h - 2 * OFF) / (ny - 1)
            dx = (i == 0) - (i == nx - 1)
            dy = (j == 0) - (j == ny - 1)
            arc = {0: 360, 1: 180, 2: 90}[abs(dx) + abs(dy)]
            facing = {(1, 0): 0, (-1, 0): 180, (0, 1): 90, (0, -1): 270, (1, 1): 45, (-1, 1): 135, (-1, -1): 225,
                      (1, -1): 315, (0, 0): 0}[dx, dy]
            out.append(head(nozzle, x0 + x, y0 + y, arc, facing, radius))
    return out


CASES = []


def case(name, things, water, heads=None, valves=None, hand=None, kinds=None, **more):
    wanted = {"heads": heads, "valves": valves, "hand": hand or [], "kinds": kinds or [], **more}
    CASES.append({"name": name, "job": job(name, things, water), "wanted": wanted})


# Everyday lawns, each with a grid that a designer draws without thinking.
case("100 x 60", [area("a", rect(0, 0, 100, 60))], supply(65), 12, 2, grid("rotator-30", 100, 60, 4, 3, 30))
case("40 x 30", [area("a", rect(0, 0, 40, 30))], supply(65), 9, 1, grid("rotator-20", 40, 30, 3, 3, 20))
case("54 x 45", [area("a", rect(0, 0, 54, 45))], supply(65), 9, 1, grid("rotator-30", 54, 45, 3, 3, 27))
case("18 x 12", [area("a", rect(0, 0, 18, 12))], supply(60), 6, 1, grid("rotator-14", 18, 12, 3, 2, 12))

# An L of 60 x 60 with legs of 24: twelve of the 30 ft class.
L = [(0, 0), (60, 0), (60, 24), (24, 24), (24, 60), (0, 60)]
LEGS = [
    (0.2, 0.2, 90, 45), (24, 0.2, 180, 90), (42, 0.2, 180, 90), (59.8, 0.2, 90, 135),
    (59.8, 23.8, 90, 225), (42, 23.8, 180, 270), (23.8, 23.8, 270, 225),
    (0.2, 24, 180, 0), (0.2, 42, 180, 0), (0.2, 59.8, 90, 315), (23.8, 59.8, 90, 225), (23.8, 42, 180, 180),
]
case("L with legs of 24", [area("a", L)], supply(65), 13, 1, [head("rotator-30", x, y, a, f, 24) for x, y, a, f in LEGS])
case("triangle 70 x 50", [area("a", [(0, 0), (70, 0), (0, 50)])], supply(65), 18, 1)
case("circle of 25", [area("a", [(0, -25, 1), (0, 25, 1)])], supply(65), 9, 1)

# Verges between street and walk: nothing that throws keeps off the pavement.
for wide in (3, 6):
    street, walk = dry("street", rect(-5, -24, 70, 24)), dry("walk", rect(-5, wide, 70, 5), "path")
    case(f"verge of {wide}", [area("a", rect(0, 0, 60, wide)), street, walk], supply(65), 0, 1, kinds=["dripline"])

# Little pressure: no more valves for a pound that no gauge shows.
case("60 x 40 at 38 psi", [area("a", rect(0, 0, 60, 40))], supply(38), 20, 3)

# Two gardens 8 ft apart in height on valves of their own.
corners = lambda y, n: [height(f"{n}{i}", x, y + dy, 8 if n == "u" else 0) for i, (x, dy) in
                        enumerate([(0, 0), (40, 0), (0, 20), (40, 20)])]
case("two heights", [area("upper", rect(0, 0, 40, 20)), area("lower", rect(0, 40, 40, 20))] + corners(0, "u") +
     corners(40, "l"), supply(65), 16, 2)

# 130 psi in the street: one reducing valve for all, 20 psi over what the neediest zone wants.
case("130 psi", [area("a", rect(0, 0, 40, 30)), area("bed", rect(45, 0, 30, 8), "bed")], supply(130), 9, 2,
     system_psi=[60, 80])

# 60 gpm through an assembly of 1 in: the size goes with the flow.
case("wide", [area("a", rect(0, 0, 130, 90))], supply(80, (60, 70), ("copper-l 2in", 40), "1-1/2in", "reduced-pressure"),
     24, 2, device="reduced-pressure-1-1/2in")

# Islands that a car park was drawn over have no ground left.
case("islands under a car park", [area("a", rect(10, 10, 12, 8)), dry("car park", rect(0, 0, 100, 40))], supply(65), 0, 0,
     covered=True)

with open("plans.json", "w") as out:
    json.dump(CASES, out, indent=1)
