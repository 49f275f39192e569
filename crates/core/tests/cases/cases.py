"""Writes the whole-job cases beside it: python3 cases.py. Figures come from hand.py, findings from the rules as
practitioners have them; nothing here runs the program. A case says what it is, how its figures were found, the
job, and what is to come out: every finding by its code, so that a good site is one with none."""

import json
import pathlib
from hand import METER, NOZZLE, Site, Zone

HERE = pathlib.Path(__file__).parent
CASES = {}


def chain_json(chain):
    out = []
    for i, part in enumerate(chain):
        kind = part[0]
        if kind == "pipe":
            p = {"is": "pipe", "pipe": part[1], "length": f"{part[2]} ft", "rise": f"{part[3]} ft"}
        elif kind == "meter":
            p = {"is": "meter", "size": part[1]}
        elif kind == "device":
            p = {"is": "device", "model": part[1]}
        else:
            p = {"is": "regulator", "set": f"{part[1]} psi"}
        out.append({"id": f"c{i + 1}", "part": p})
    return out


def reading(kind, **figures):
    when, place = figures.pop("when", ""), figures.pop("place", "")
    return {"measured": {"is": kind, **figures}, "when": when, "instrument": "", "place": place}


def supply(statics, chain=(), running=(), water=None, read_after=None, pin=None):
    """statics: psi, or (psi, when); running: (gpm, psi, when)."""
    readings = []
    for s in statics:
        psi, when = s if isinstance(s, tuple) else (s, "")
        readings.append(reading("static", pressure=f"{psi} psi", when=when))
    for gpm, psi, when in running:
        readings.append(reading("dynamic", flow=f"{gpm} gpm", pressure=f"{psi} psi", when=when))
    out = {"id": "s1", "name": "Meter", "readings": readings, "chain": chain_json(chain)}
    if water:
        out["water"] = water
    if read_after:
        out["read_after"] = read_after
    if pin:
        out["pin"] = pin
    return out


def group(nozzle, lots, spacing, pipe, distance=20, rise=0, id="g1", valve="v1", row=None, **more):
    out = {
        "id": id, "name": id, "plants": "lawn", "nozzle": nozzle,
        "lots": [{"arc": a, "count": n, "valve": valve} for a, n in lots],
        "arrangement": "chain", "spacing": spacing if isinstance(spacing, str) else f"{spacing} ft",
        "pipe": pipe, "distance": f"{distance} ft", "rise": f"{rise} ft",
    }
    if row:
        out["row"] = {"emitters": row[0], "emitter_spacing": f"{row[1]} in"}
    out.update(more)
    return out


def valve(id="v1", model="valve-1in", regulation=None, main=None, filter=None):
    out = {"id": id, "name": id, "supply": "s1", "model": model}
    if regulation:
        out["regulation"] = {"at": regulation[0], "set": f"{regulation[1]} psi"}
    if main:
        out["mainline"] = {"pipe": main[0], "length": f"{main[1]} ft", "rise": f"{main[2]} ft"}
    if filter:
        out["filter"] = filter
    return out


def job(supply, groups, valves, rules=None, units="us", **more):
    out = {"format": "fenlo-job/1", "name": "Case", "units": units, "supplies": [supply], "groups": groups,
           "valves": valves, **more}
    if rules:
        out["rules"] = rules
    return out


def case(name, how, plan, zones, supply=(), **more):
    """zones: {valve: (findings, figures)}; supply: its findings."""
    assert name not in CASES, name
    expect = {"supply": sorted(supply), **more,
              "zones": {v: {"findings": sorted(f), **figures} for v, (f, figures) in zones.items()}}
    CASES[name] = {"how": how, "plan": plan, "expect": expect}


def figures(zone, site, tolerance=0.15, **more):
    r = zone.solve(site)
    return {"flow_gpm": [round(r["flow"], 3), tolerance], "lowest_psi": [round(r["low"], 2), tolerance],
            "highest_psi": [round(r["high"], 2), tolerance], **more}


def one(name, how, nozzle, arc, n, spacing, pipe, site, findings=(), supply_says=(), distance=20, rise=0,
        regulation=None, statics=None, running=(), model="valve-1in", main=None, fits=None, units="us",
        rules=None, row_spacing=None, read_after=None, **more):
    """A chain of equal heads on one valve; its figures by hand."""
    z = Zone(nozzle, arc, n, spacing, pipe, distance, rise, main,
             {"valve-1in": "1in", "valve-1-1/2in": "1-1/2in"}[model],
             module=regulation[1] if regulation and regulation[0] == "valve" else None,
             body=regulation[1] if regulation and regulation[0] == "body" else None)
    extra = {"fits": fits} if fits else {}
    g = group(nozzle, [(arc, n)], spacing, pipe, distance, rise)
    if row_spacing:
        g["row_spacing"] = f"{row_spacing} ft"
    s = supply(statics or [site.static], site.chain, running, read_after=read_after)
    if not more and site.safe() and "design_gpm" not in more:
        more["design_gpm"] = [round(site.safe() * 0.9, 2), 0.06]
    case(name, how, job(s, [g], [valve(model=model, regulation=regulation, main=main)], rules, units),
         {"v1": (findings, figures(z, site, **extra))}, supply_says, **more)


def count(nozzle, arc, spacing, pipe, site, distance, rise_a_head=0.0, wanted=None, limit=None):
    """The largest n whose last head keeps `wanted` within `limit` gpm."""
    n = 0
    while n < 60:
        z = Zone(nozzle, arc, n + 1, spacing, pipe, distance, rise_a_head * (n + 1))
        r = z.solve(site)
        if r["low"] < wanted or (limit and r["flow"] > limit):
            return n
        n += 1
    return n


COPPER = ("pipe", "copper-l 1in", 40, 0)
RP, DC, PVB = ("device", "reduced-pressure"), ("device", "double-check"), ("device", "vacuum-breaker")
M34, M1 = ("meter", "3/4in"), ("meter", "1in")

# ---- good sites: silent
rotors = Site(60, [("pipe", "copper-l 1-1/4in", 50, 0), M1, RP])
one("rotors-four", "60 psi, 1 in meter, 50 ft of 1 1/4 in copper, reduced-pressure assembly: four rotors of 3 gpm "
    "keep their 45 psi; 4, 6 and 9 keep 45, 40.5 and 35; 24.7 gpm after the margin",
    "rotor-3", 180, 4, 38, "class-200 1-1/4in", rotors, distance=40,
    fits={"nominal": 4, "aim": 6, "least": 9, "limited_by": "pressure"})
small = Site(46, [COPPER, M34, DC])
one("sprays-eight", "a small town lawn at 46 psi with a double check: eight half circles of 12 ft", "spray-12", 180,
    8, 12, "class-200 1in", small)
one("sprays-module", "the same heads at 72 psi behind a module at 33", "spray-12", 180, 8, 12, "class-200 1in",
    Site(72, [COPPER, M34, DC]), regulation=("valve", 33))
one("sprays-bodies", "bodies at 30 on 75 psi", "spray-12", 180, 8, 12, "class-200 1in", Site(75, [COPPER, M34, DC]),
    regulation=("body", 30))
one("rotators-level", "twelve rotators of 20 ft on level ground at 55 psi, vacuum breaker", "rotator-20", 180, 12,
    19, "class-200 1in", Site(55, [COPPER, M34, PVB]))
one("rotators-bodies-on-a-slope", "rotators with bodies, 4 ft of rise", "rotator-20", 180, 10, 19, "class-200 1in",
    Site(75, [COPPER, M34, DC]), rise=4, regulation=("body", 40))
one("rotators-reading", "a running reading and no meter in the chain: the pressure decides alone", "rotator-20", 180,
    8, 19, "class-200 1in", Site(58, [DC], running=(12, 50)), running=[(12, 50, "")])
one("sprays-in-psi-read-in-bar", "the same lawn as sprays-eight, its job in bar", "spray-12", 180, 8, 12,
    "class-200 1in", small, units="metric-bar")
one("rotators-metric", "rotators with the job in metric units", "rotator-20", 180, 9, 19, "class-200 1in",
    Site(54, [COPPER, M34, DC]), units="metric")
one("rotors-long-main", "four rotors at the end of 120 ft of main", "rotor-2", 180, 5, 36, "class-200 1in",
    Site(66, [("pipe", "copper-l 1-1/4in", 50, 0), M1, RP]), main=("class-200 1-1/4in", 120, 2))
one("wide-sprays", "15 ft sprays spaced as they throw", "spray-15", 180, 6, 15, "class-200 1in",
    Site(48, [COPPER, M34, DC]))
one("shorter-rotators", "14 ft rotators", "rotator-14", 180, 14, 14, "class-200 1in", Site(52, [COPPER, M34, DC]))
one("a-few-rotors-on-one-reading", "two rotors of 4 gpm", "rotor-4", 180, 2, 40, "class-200 1in",
    Site(56, [("pipe", "copper-l 1in", 30, 0), M1, DC]))

drip_row = dict(spacing="18 in", pipe="drip-poly 3/4in", row=(24, 18))
drip_group = lambda **k: group("dripline-0.6", [(360, 6)], distance=10, **{**drip_row, **k})  # noqa: E731
drip_flow = {"flow_gpm": [6 * 24 * 0.6 / 60, 0.01]}
drip_valve = lambda **k: valve(model="valve-drip-3/4in", filter="filter-3/4in", **k)  # noqa: E731
street = lambda statics, chain=(DC,): supply(statics, [COPPER, M34, *chain])  # noqa: E731
case("drip-good", "six rows of 24 emitters of 0.6 gph: 1.44 gpm; filter, preset 30",
     job(street([60]), [drip_group()], [drip_valve(regulation=("inline", 30))]), {"v1": ([], drip_flow)})
case("drip-good-metric-preset", "the same with 2.1 bar, as presets are sold there",
     job(street([60]), [drip_group()], [drip_valve(regulation=("inline", 30.4579))], units="metric-bar"),
     {"v1": ([], drip_flow)})
case("drip-by-system-regulator", "a system regulator at 35 stands in the line before it: regulated",
     job(supply([70], [COPPER, M34, DC, ("regulator", 35)]), [drip_group()], [drip_valve()]),
     {"v1": ([], drip_flow)})
case("drip-by-rating-under-it", "school of regulating by rating: 38 psi static under 40",
     job(street([38]), [drip_group()], [drip_valve()], rules={"drip": "regulate-by-rating"}),
     {"v1": ([], drip_flow)})
tape = group("tape-0.3", [(360, 5)], "12 in", "drip-poly 3/4in", 10, row=(100, 8))
case("tape-good", "tape at 10 psi: half an emitter's exponent, 5 rows of 100 at 0.3 gph",
     job(street([55]), [tape], [drip_valve(regulation=("inline", 10))]),
     {"v1": ([], {"flow_gpm": [5 * 100 * 0.3 / 60, 0.25]})})
matched = [group("rotor-3", [(180, 3)], 36, "class-200 1-1/4in", 30),
           group("rotor-1.5", [(90, 2)], 33, "class-200 1-1/4in", 30, id="g2")]
case("rotors-matched", "90 and 180 degrees on 1.5 and 3 gpm: half the flow on half the arc; 33 and 36 ft squares "
     "differ by 1.19 in rate only, which is told as such",
     job(supply([60], rotors.chain), matched, [valve()]), {"v1": (["mixed"], {"flow_gpm": [12.1, 0.7]})})
well = {"from": "well", "cut_in": "45 psi", "cut_out": "60 psi", "pump_flow": "15 gpm"}
case("well-good", "a well that gives 15 gpm, cut in at 45: eight rotators of 0.83 gpm each at 40 psi",
     job(supply([], [DC], water=well), [group("rotator-20", [(180, 8)], 19, "class-200 1in")], [valve()]),
     {"v1": ([], {"flow_gpm": [6.64, 0.25]})}, design_gpm=[13.5, 0.01])
pump = {"from": "pump", "potable": False, "least": "5 gpm", "curve": [
    {"flow": "0 gpm", "pressure": "70 psi"}, {"flow": "10 gpm", "pressure": "62 psi"},
    {"flow": "20 gpm", "pressure": "48 psi"}, {"flow": "30 gpm", "pressure": "25 psi"}]}
case("pump-good", "a pump of 30 gpm at a tank, no drinking water: ten sprays with bodies",
     job(supply([], [], water=pump), [group("spray-12", [(180, 10)], 12, "class-200 1in")],
         [valve(regulation=("body", 30))]),
     {"v1": ([], {"flow_gpm": [11.95, 0.02], "lowest_psi": [30, 0.05]})}, design_gpm=[27.0, 0.01])
case("three-valves-nine-stations", "three small zones on a controller of nine",
     job(supply([60], rotors.chain),
         [group("rotor-3", [(180, 4)], 38, "class-200 1-1/4in", 40, id=f"g{i}", valve=f"v{i}") for i in (1, 2, 3)],
         [valve(f"v{i}") for i in (1, 2, 3)], controller_stations=9),
     {f"v{i}": ([], {}) for i in (1, 2, 3)})
case("anti-siphon-valves", "an anti-siphon valve for each zone, on the level: nothing else is wanted in the chain",
     job(supply([50], [COPPER, M34]), [group("spray-12", [(180, 7)], 12, "class-200 1in")],
         [valve(model="anti-siphon-valve-1in")]), {"v1": (["pressure-high"], {})})

# ---- counts and flows
one("rotors-seven", "the seventh rotor leaves 40.2 psi, a little under the 40.5 aimed at", "rotor-3", 180, 7, 38,
    "class-200 1-1/4in", rotors, ["below-aim"], distance=40,
    fits={"nominal": 4, "aim": 6, "least": 9, "limited_by": "pressure"})
one("rotors-ten", "ten starve: 32.9 psi of 35, and take more than the 24.7 gpm", "rotor-3", 180, 10, 38,
    "class-200 1-1/4in", rotors, ["head-starved", "flow-over-design", "not-head-to-head"], distance=40)
lawn = Site(55, [COPPER, M34, DC])
one("sprays-by-flow", "at 55 psi and with wide pipe the flow stops first", "spray-12", 180, 9, 12,
    "class-200 1-1/4in", lawn, ["pressure-high"],
    fits={"nominal": count("spray-12", 180, 12, "class-200 1-1/4in", lawn, 20, wanted=30, limit=lawn.safe() * .9),
          "aim": count("spray-12", 180, 12, "class-200 1-1/4in", lawn, 20, wanted=27, limit=lawn.safe() * .9),
          "least": count("spray-12", 180, 12, "class-200 1-1/4in", lawn, 20, wanted=20, limit=lawn.safe() * .9),
          "limited_by": "flow"})
case("static-alone", "60 psi and nothing else: no design flow is known, 10 gpm are assumed",
     job(supply([60], [DC]), [group("rotator-20", [(180, 8)], 19, "class-200 1in")], [valve()]),
     {"v1": (["pressure-high"], {})}, ["static-only"], design_gpm=None, assumed_gpm=10.0)
visits = [(55, "2026-07-01 06:30"), (68, "2026-07-02 14:00")]
case("two-visits", "15 gpm cost 15 psi in the visit of 68: on the lowest static, 55, forty are left",
     job(supply(visits, [DC], [(15, 53, "2026-07-02 14:10")]),
         [group("rotator-20", [(180, 8)], 19, "class-200 1in")], [valve()]),
     {"v1": ([], figures(Zone("rotator-20", 180, 8, 19, "class-200 1in"), Site(55, [DC], running=(15, 40))))},
     curve=[[15, 40.0]])
behind = Site(58, [COPPER, M34, DC], running=(12, 50), skip=2)
one("gauge-behind-the-meter", "readings taken behind the meter: line and meter are in them", "rotator-20", 180, 8, 19,
    "class-200 1in", behind, running=[(12, 50, "")], read_after="c2")
uphill = Site(60, [COPPER, M34, RP])
one("a-small-zone-on-a-long-main", "two rotors 200 ft away on 3/4 in: their main is charged at their own 5 gpm",
    "rotor-2", 180, 3, 34, "class-200 1in", uphill, main=("class-200 1in", 200, 0))

# ---- pressures
one("sprays-at-80", "80 psi on bare sprays", "spray-12", 180, 6, 12, "class-200 1in", Site(80, [COPPER, M34, DC]),
    ["pressure-high"])
one("a-long-chain", "sixteen sprays on 3/4 in, one after the other, 60 ft away", "spray-12", 180, 16, 12,
    "class-200 3/4in", Site(45, [COPPER, M34, DC]), ["head-starved", "velocity", "flow-over-design", "not-head-to-head"], distance=60)
one("module-without-room", "a module at 45 on 50 psi", "rotator-20", 180, 8, 19, "class-200 1in",
    Site(56, [COPPER, M34, DC]), ["regulator-no-room"], regulation=("valve", 45))
one("height-on-a-valve", "rotators climbing 12 ft from the first to the last", "rotator-20", 180, 8, 19,
    "class-200 1in", Site(57, [COPPER, M34, DC]), ["height-on-valve"], rise=12)
one("too-little-for-the-valve", "two rotators take 1.8 gpm of the 5 that a 1 in valve wants", "rotator-20", 180, 2,
    19, "class-200 1in", Site(52, [COPPER, M34, DC]), ["valve-min-flow"])
one("gaps-in-the-row", "12 ft sprays 14 ft apart", "spray-12", 180, 7, 14, "class-200 1in", small,
    ["not-head-to-head"])
one("gaps-between-rows", "rotators 19 ft apart in rows of 24", "rotator-20", 180, 8, 19, "class-200 1in",
    Site(54, [COPPER, M34, DC]), ["not-head-to-head"], row_spacing=24)
one("fast-service-line", "26 gpm through 3/4 in copper", "rotor-3", 180, 6, 38, "class-200 1-1/2in",
    Site(90, [("pipe", "copper-l 3/4in", 20, 0), M1, DC]), ["service-velocity", "flow-over-design", "pressure-high"],
    ["static-high"])
weak = Site(36, [COPPER, M34, DC])
case("booster", "36 psi on rotors of 45: not one gets the 35 of its band",
     job(supply([36], weak.chain), [group("rotor-3", [(180, 3)], 38, "class-200 1-1/4in", 40)], [valve()]),
     {"v1": (["head-starved", "booster-needed", "not-head-to-head"],
             figures(Zone("rotor-3", 180, 3, 38, "class-200 1-1/4in", 40), weak))}, ["no-flow"])
case("ten-psi", "10 psi static: everything starves, and it is said",
     job(supply([10], small.chain), [group("spray-12", [(180, 3)], 12, "class-200 1in")], [valve()]),
     {"v1": (["head-starved", "booster-needed", "not-head-to-head", "valve-min-flow"], {})}, ["no-flow"])
case("two-hundred-psi", "200 psi static", job(supply([200], small.chain),
     [group("spray-12", [(180, 6)], 12, "class-200 1in")], [valve()]),
     {"v1": (["pressure-high", "flow-over-design", "velocity"], {})}, ["static-high"])

# ---- drip ratings
case("drip-behind-bodies", "bodies mean nothing to dripline: 85 psi at the emitters",
     job(street([85]), [drip_group()], [drip_valve(regulation=("body", 30))]),
     {"v1": (["drip-no-regulator", "drip-over-rating"], {"standing_psi": [85, 0.1]})}, ["static-high"])
case("drip-bed-lower", "preset 40 with the bed 30 ft lower: 40 and 13 are 53 psi",
     job(street([70]), [drip_group(rise=-30)], [drip_valve(regulation=("inline", 40))]),
     {"v1": (["drip-over-rating", "height-on-valve"], {"standing_psi": [53.0, 0.1]})})
case("drip-valve-lower", "system regulator 38, the valve 40 ft lower: 38 and 17.3 are 55.3 psi",
     job(supply([70], [COPPER, M34, DC, ("regulator", 38)]), [drip_group()],
         [drip_valve(main=("class-200 1in", 60, -40))]),
     {"v1": (["drip-no-regulator", "drip-over-rating"], {"standing_psi": [55.3, 0.1]})})
case("drip-two-statics", "statics of 38 and 95: the highest reaches a shut end",
     job(street([38, 95]), [drip_group()], [drip_valve()], rules={"drip": "regulate-by-rating"}),
     {"v1": (["drip-no-regulator", "drip-over-rating"], {"standing_psi": [95, 0.1]})}, ["static-high"])
case("drip-at-its-rating", "preset 40 on fittings of 40: presets hold within 10 %",
     job(street([70]), [drip_group()], [drip_valve(regulation=("inline", 40))]),
     {"v1": (["drip-near-rating"], {"standing_psi": [40, 0.1]})})
case("drip-without-filter", "no filter, by the house's rule",
     job(street([60]), [drip_group()], [valve(model="valve-drip-3/4in", regulation=("inline", 30))]),
     {"v1": (["drip-no-filter"], drip_flow)})

# ---- backflow
sprays = [group("spray-12", [(180, 8)], 12, "class-200 1in")]
case("no-backflow", "meter and line alone", job(supply([46], [COPPER, M34]), sprays, [valve()]),
     {"v1": (["pressure-high"], {})}, ["no-backflow"])
case("anti-siphon-in-the-chain", "a breaker of one valve before all valves protects nothing",
     job(supply([46], [COPPER, M34, ("device", "anti-siphon")]), sprays, [valve()]),
     {"v1": ([], {})}, ["backflow-place"])
uphill_heads = [group("rotator-20", [(180, 8)], 19, "class-200 1in", rise=4)]
case("breaker-below-the-heads", "a pressure vacuum breaker 4 ft under the highest head",
     job(supply([54], [COPPER, M34, PVB]), uphill_heads, [valve()]), {"v1": ([], {})}, ["backflow-place"])
case("breaker-above-the-heads", "the same breaker at the top, the zone 6 ft below it",
     job(supply([54], [COPPER, M34, PVB]), [group("rotator-20", [(180, 8)], 19, "class-200 1in")],
         [valve(main=("class-200 1in", 60, -6))]), {"v1": ([], {})})
case("hose-breaker-on-a-meter", "a hose breaker for buried valves",
     job(supply([46], [COPPER, M34, ("device", "hose-vacuum-breaker")]), sprays, [valve()]),
     {"v1": ([], {})}, ["backflow-place"])

# ---- arcs, kinds, stations, regulators of the system
case("arcs-of-one-rotor", "quarters and halves of one nozzle: twice the rate",
     job(supply([60], rotors.chain), [group("rotor-3", [(90, 2), (180, 2)], 38, "class-200 1-1/4in", 40)],
         [valve()]), {"v1": (["arcs-unmatched"], {})})
case("rotator-at-300", "a rotator's insert ends at 270 degrees",
     job(supply([54], [COPPER, M34, DC]), [group("rotator-20", [(180, 6), (300, 2)], 19, "class-200 1in")],
         [valve()]), {"v1": (["arc-not-made"], {})})
case("sprays-with-rotors", "sprays and rotors on one valve",
     job(supply([60], rotors.chain), [group("rotor-3", [(180, 2)], 38, "class-200 1-1/4in", 40),
                                      group("spray-12", [(180, 4)], 12, "class-200 1in", id="g2")], [valve()]),
     {"v1": (["mixed-never", "pressure-high"], {})})
case("too-few-stations", "three valves on two stations",
     job(supply([60], rotors.chain),
         [group("rotor-3", [(180, 4)], 38, "class-200 1-1/4in", 40, id=f"g{i}", valve=f"v{i}") for i in (1, 2, 3)],
         [valve(f"v{i}") for i in (1, 2, 3)], controller_stations=2),
     {f"v{i}": ([], {}) for i in (1, 2, 3)}, ["too-few-stations"])
case("pump-that-cycles", "a zone of 3 gpm where the pump wants 5",
     job(supply([], [], water=pump), [group("rotator-20", [(180, 4)], 19, "class-200 1in")],
         [valve(model="valve-drip-3/4in", regulation=("body", 40))]), {"v1": (["pump-cycles"], {})})
case("static-high-behind-the-backflow", "95 psi and a regulator behind the irrigation's own backflow device: the "
     "building is not protected",
     job(supply([95], [COPPER, M34, DC, ("regulator", 45)]), [group("rotator-20", [(180, 8)], 19, "class-200 1in")],
         [valve()]), {"v1": ([], {})}, ["static-high"])
case("static-high-at-the-meter", "the same regulator before it",
     job(supply([95], [COPPER, M34, ("regulator", 50), DC]), [group("rotator-20", [(180, 8)], 19, "class-200 1in")],
         [valve()]), {"v1": ([], {})})
case("system-without-room", "a system regulator at 55 on 58 psi",
     job(supply([58], [COPPER, M34, DC, ("regulator", 50)]), [group("rotator-20", [(180, 8)], 19, "class-200 1in")],
         [valve()]), {"v1": ([], {})}, ["system-regulator-no-room"])
case("system-out-of-range", "a system regulator at 20, which no such valve can be set to",
     job(supply([70], [COPPER, M34, DC, ("regulator", 20)]), [drip_group()], [drip_valve()]),
     {"v1": ([], drip_flow)}, ["system-regulator-range"])
case("module-below-its-flow", "a module on 1.8 gpm",
     job(supply([60], small.chain), [group("rotator-20", [(180, 2)], 19, "class-200 1in")],
         [valve(model="valve-drip-3/4in", regulation=("valve", 42))]), {"v1": (["regulator-flow"], {})})
case("dirty-filter", "sprays behind a screen filter: 28.0 psi clean, 25.4 dirty, 27 are aimed at",
     job(supply([36.5], small.chain), [group("spray-12", [(180, 8)], 12, "class-200 1in")],
         [valve(filter="filter-1in")]), {"v1": (["dirty-filter"], {})})

if __name__ == "__main__":
    for old in HERE.glob("*.json"):
        old.unlink()
    for name, content in CASES.items():
        (HERE / f"{name}.json").write_text(json.dumps(content, indent=1, ensure_ascii=False) + "\n")
    print(len(CASES), "cases")
