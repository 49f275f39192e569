"""Irrigation figures worked apart from the program: Hazen and Williams leg by leg, the orifice law at
each head, bisection on the pressure at the first head. Gallons a minute, psi, feet, inches."""

BORE = {  # inside diameters, inches, and C
    "class-200 3/4in": (0.930, 150), "class-200 1in": (1.189, 150), "class-200 1-1/4in": (1.502, 150),
    "class-200 1-1/2in": (1.720, 150), "class-200 2in": (2.149, 150),
    "pvc-40 3/4in": (0.824, 150), "pvc-40 1in": (1.049, 150),
    "copper-l 3/4in": (0.785, 140), "copper-l 1in": (1.025, 140), "copper-l 1-1/4in": (1.265, 140),
}
METER = {"5/8in": 20.0, "3/4in": 30.0, "1in": 50.0, "1-1/2in": 100.0}
# kind: nominal, least, most
BAND = {"spray": (30, 20, 40), "rotator": (40, 30, 55), "rotor": (45, 35, 60)}
# nozzle: kind, gpm of the full circle (rotors: of any arc), throw in feet
NOZZLE = {
    "spray-8": ("spray", 1.06, 8), "spray-10": ("spray", 1.66, 10), "spray-12": ("spray", 2.39, 12),
    "spray-15": ("spray", 3.74, 15), "rotator-14": ("rotator", 0.81, 14), "rotator-20": ("rotator", 1.66, 20),
    "rotator-30": ("rotator", 3.74, 30), "rotor-1.5": ("rotor", 1.5, 33), "rotor-3": ("rotor", 3.0, 38),
    "rotor-2": ("rotor", 2.0, 36), "rotor-6": ("rotor", 6.0, 43), "rotor-4": ("rotor", 4.0, 40),
}
FEET = 0.4335  # psi a foot of height (9.80665 kPa a metre)


def friction(q, length, pipe, fittings=0.10):
    """psi: 4.52 Q^1.852 / (C^1.852 d^4.8704) a foot."""
    d, c = BORE[pipe]
    return 4.52 * q**1.852 / (c**1.852 * d**4.8704) * length * (1 + fittings)


def velocity(q, pipe):
    return 0.4085 * q / BORE[pipe][0] ** 2


def table(points, q):
    """Straight between the points: near enough for devices that are nearly flat."""
    if q <= points[0][0]:
        return points[0][1]
    for (a, x), (b, y) in zip(points, points[1:]):
        if q <= b:
            return x + (y - x) * (q - a) / (b - a)
    return points[-1][1] * (q / points[-1][0]) ** 2


def valve(q, size="1in"):
    return max(1.5, (q / {"3/4in": 8, "1in": 13, "1-1/2in": 28}[size]) ** 2)


DEVICE = {
    "reduced-pressure": [(3, 10), (35, 12)], "double-check": [(3, 3), (35, 5)],
    "vacuum-breaker": [(5, 3), (30, 5)], "ball-valve": [(1, 0.2), (30, 0.2)],
}


class Site:
    """Street to the end of the chain. `chain`: ('pipe', pipe, feet, rise), ('meter', size), ('device', id),
    ('regulator', set)."""

    def __init__(self, static, chain=(), running=None, own_static=None, skip=0):
        self.static, self.chain, self.skip = static, list(chain), skip
        self.k = 0.0
        if running:  # (gpm, psi) with the static of its own visit
            q, p = running
            self.k = ((own_static or static) - p) / q**1.852

    def at(self, q):
        p = self.static - self.k * q**1.852
        for part in self.chain[self.skip:]:
            if part[0] == "pipe":
                p -= friction(q, part[2], part[1]) + part[3] * FEET
            elif part[0] == "meter":
                p -= 15 * (q / METER[part[1]]) ** 2
            elif part[0] == "device":
                p -= table(DEVICE[part[1]], q)
            elif part[0] == "regulator":
                p = min(p, part[1])
        return p

    def safe(self):
        """Method 1: the least of the three rules, before the margin."""
        rules = []
        for part in self.chain:
            if part[0] == "meter":
                most = METER[part[1]]
                rules += [most * (0.1 * self.static / 15) ** 0.5, 0.75 * most]
            if part[0] == "pipe":
                d = BORE[part[1]][0]
                rules.append((7 if part[1].startswith("copper") else 5) * d * d / 0.4085)
        return min(rules) if rules else None


class Zone:
    """A chain of equal heads on one valve: `legs` feet from the valve to the first head, `spacing` on."""

    def __init__(self, nozzle, arc, n, spacing, pipe, legs=20.0, rise=0.0, main=None, size="1in",
                 module=None, body=None, extra=0.0):
        self.kind, full, self.throw = NOZZLE[nozzle]
        self.q0 = full if self.kind == "rotor" else full * arc / 360
        self.p0 = BAND[self.kind][0]
        self.n, self.spacing, self.pipe, self.legs, self.rise = n, spacing, pipe, legs, rise
        self.main, self.size, self.module, self.body, self.extra = main, size, module, body, extra

    def head(self, inlet):
        if inlet <= 0:
            return 0.0, 0.0
        p = inlet
        if self.body:
            p = min(inlet * self.p0 / (self.p0 + 2), self.body)
        return self.q0 * (p / self.p0) ** 0.5, p

    def lateral(self, last):
        """From the pressure at the last head's inlet back to the valve's outlet: flow, pressure, first and
        last nozzle."""
        climb = self.rise / self.n * FEET
        p, (q, low) = last, self.head(last)
        high = low
        for _ in range(self.n - 1):
            p += friction(q, self.spacing, self.pipe) + climb
            add, nozzle = self.head(p)
            q, low, high = q + add, min(low, nozzle), max(high, nozzle)
        p += friction(q, self.legs, self.pipe) + climb
        return q, p, low, high

    def solve(self, site):
        """The last head's inlet by bisection: what the street then gives is what the lateral wants."""
        lo, hi = 0.01, 200.0
        for _ in range(200):
            mid = (lo + hi) / 2
            q, need, _, _ = self.lateral(mid)
            have = site.at(q) - valve(q, self.size) - self.extra
            if self.main:
                have -= friction(q, self.main[1], self.main[0]) + self.main[2] * FEET
            if self.module:
                open_loss = (q / 15) ** 2  # 1 psi at 15 gpm wide open
                have = min(have - 0, self.module) if have - open_loss > self.module else have - open_loss
            if have > need:
                lo = mid
            else:
                hi = mid
        q, need, low, high = self.lateral(lo)
        return {"flow": q, "low": low, "high": high, "before_lateral": need}
