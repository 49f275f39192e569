use super::outline::{Outline, Path, Vertex};
use super::point::{Motion, Point};
use super::{MOST_CORNERS, SAME};
use cavalier_contours::polyline::{PlineContainsResult, PlineSource};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A piece of ground: a ring with holes in it.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Shape {
    /// Its edge.
    pub outline: Outline,
    /// What is left out of it, each inside the edge and apart from the others.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub holes: Vec<Outline>,
}

/// Why a shape can't be made.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ShapeFault {
    /// Not enough corners to hold an area.
    #[error("needs three or more corners")]
    TooFew,
    /// Not enough points for a line, or too many.
    #[error("a line has 2 to {MOST_CORNERS} points")]
    NoLine,
    /// More than one ring may have.
    #[error("has {0} corners; at most {MOST_CORNERS}")]
    TooMany(usize),
    /// Off the plane, or not a number.
    #[error("corner {0} is more than 10 km from the origin")]
    Off(usize),
    /// Bends back on itself.
    #[error("the arc after corner {0} is not possible")]
    Bulge(usize),
    /// Two corners in one place.
    #[error("corners {0} and {1} are at the same point")]
    Repeated(usize, usize),
    /// The edge crosses itself near a point, metres.
    #[error("the outline crosses or touches itself near {:.2}, {:.2} m", .0.x, .0.y)]
    Crossing(Point),
    /// Nothing inside.
    #[error("has no area")]
    NoArea,
    /// A hole that is not inside.
    #[error("hole {0} is not wholly inside the edge")]
    HoleOutside(usize),
    /// Holes that meet.
    #[error("holes {0} and {1} overlap")]
    HolesMeet(usize, usize),
}

impl ShapeFault {
    /// The corner it names, counted from 0.
    pub fn corner(&self) -> Option<usize> {
        match self {
            Self::Off(i) | Self::Bulge(i) | Self::Repeated(i, _) => Some(i - 1),
            _ => None,
        }
    }
}

impl Shape {
    /// A ring without holes.
    pub fn plain(outline: Outline) -> Self {
        Self { outline, holes: Vec::new() }
    }
    /// m2, holes taken out.
    pub fn area_m2(&self) -> f64 {
        self.outline.signed_area().abs() - self.holes.iter().map(|h| h.signed_area().abs()).sum::<f64>()
    }
    /// Metres round the outer edge and all holes.
    pub fn perimeter(&self) -> f64 {
        self.rings().map(Outline::perimeter).sum()
    }
    /// The edge, then the holes.
    pub fn rings(&self) -> impl Iterator<Item = &Outline> {
        std::iter::once(&self.outline).chain(&self.holes)
    }
    /// A ring by its number: 0 the edge, then the holes.
    pub fn ring_mut(&mut self, ring: usize) -> Option<&mut Outline> {
        if ring == 0 { Some(&mut self.outline) } else { self.holes.get_mut(ring - 1) }
    }
    /// Inside and in no hole.
    pub fn contains(&self, p: Point) -> bool {
        self.outline.contains(p) && !self.holes.iter().any(|h| h.contains(p))
    }
    /// Moved, turned or mirrored.
    pub fn moved(&self, motion: Motion) -> Self {
        Self {
            outline: self.outline.moved(motion),
            holes: self.holes.iter().map(|h| h.moved(motion)).collect(),
        }
    }

    /// A point well inside, for a label: of a grid over the shape, the one farthest from any edge.
    pub fn inner_point(&self) -> Point {
        let flat: Vec<Vec<Point>> = self.rings().map(|r| r.flat(0.05)).collect();
        let Some((low, high)) = bounds(flat[0].iter().copied()) else {
            return Point::default();
        };
        let clear = |p: Point| {
            flat.iter()
                .flat_map(|ring| ring.iter().zip(ring.iter().cycle().skip(1)))
                .map(|(&a, &b)| to_segment(p, a, b))
                .fold(f64::MAX, f64::min)
        };
        let mut best = (f64::MIN, low.middle(high));
        let (mut centre, mut half) = (low.middle(high), (high - low) * 0.5);
        for _ in 0..3 {
            const STEPS: i32 = 6;
            for i in -STEPS..=STEPS {
                for j in -STEPS..=STEPS {
                    let p = centre
                        + Point::new(
                            half.x * f64::from(i) / f64::from(STEPS),
                            half.y * f64::from(j) / f64::from(STEPS),
                        );
                    // Of points as clear as one another the one nearest the middle.
                    let aside = p.distance(low.middle(high)) * 0.05;
                    let score = if inside(&flat, p) { clear(p) } else { -clear(p) } - aside;
                    if score > best.0 + 1e-9 {
                        best = (score, p);
                    }
                }
            }
            (centre, half) = (best.1, half * 0.25);
        }
        best.1
    }

    /// Where a fault that [`Shape::check`] found is to be seen.
    pub fn place_of(&self, fault: &ShapeFault) -> Option<Point> {
        match fault {
            ShapeFault::Crossing(p) => Some(*p),
            ShapeFault::HoleOutside(i) | ShapeFault::HolesMeet(_, i) => {
                self.holes.get(i - 1)?.0.first().map(|v| v.at)
            }
            _ => {
                // Rings are looked at in order: the first that has this fault is the one.
                let ring = self.rings().find(|r| check_ring(r).as_ref() == Err(fault))?;
                ring.0.get(fault.corner().unwrap_or(0)).map(|v| v.at)
            }
        }
    }

    /// Sound: every ring simple with an area, holes inside and apart.
    ///
    /// # Errors
    /// The first [`ShapeFault`]; corners are numbered from 1.
    pub fn check(&self) -> Result<(), ShapeFault> {
        let corners: usize = self.rings().map(|r| r.0.len()).sum();
        if corners > MOST_CORNERS {
            return Err(ShapeFault::TooMany(corners));
        }
        self.rings().try_for_each(check_ring)?;
        let outer = self.outline.line();
        let holes: Vec<_> = self.holes.iter().map(Outline::line).collect();
        for (i, hole) in holes.iter().enumerate() {
            // Boxes first: most holes are nowhere near one another.
            if outer.contains(hole) != PlineContainsResult::Pline2InsidePline1 {
                return Err(ShapeFault::HoleOutside(i + 1));
            }
            for (j, other) in holes.iter().enumerate().take(i) {
                if boxes_meet(&self.holes[i].0, &self.holes[j].0)
                    && hole.contains(other) != PlineContainsResult::Disjoint
                {
                    return Err(ShapeFault::HolesMeet(j + 1, i + 1));
                }
            }
        }
        Ok(())
    }
}

impl Path {
    /// Sound: enough points, on the sheet, apart. A line may cross itself.
    ///
    /// # Errors
    /// The first [`ShapeFault`].
    pub fn check(&self) -> Result<(), ShapeFault> {
        if (2..=MOST_CORNERS).contains(&self.0.len()) {
            check_corners(&self.0, false)
        } else {
            Err(ShapeFault::NoLine)
        }
    }
}

/// Corner rules of any line; `closed` also joins the last with the first.
fn check_corners(vertices: &[Vertex], closed: bool) -> Result<(), ShapeFault> {
    let n = vertices.len();
    for (i, v) in vertices.iter().enumerate() {
        if !v.at.is_sound() {
            return Err(ShapeFault::Off(i + 1));
        }
        // Written so that a bulge that is no number fails too.
        if !(-10.0..=10.0).contains(&v.bulge) {
            return Err(ShapeFault::Bulge(i + 1));
        }
        let last = i + 1 == n;
        if (closed || !last) && n > 1 && v.at.distance(vertices[(i + 1) % n].at) < SAME {
            return Err(ShapeFault::Repeated(i + 1, (i + 1) % n + 1));
        }
    }
    Ok(())
}

fn check_ring(ring: &Outline) -> Result<(), ShapeFault> {
    let n = ring.0.len();
    let bent = ring.0.iter().any(|v| v.bulge != 0.0);
    if n < 2 || n == 2 && !bent {
        return Err(ShapeFault::TooFew);
    }
    if n > MOST_CORNERS {
        return Err(ShapeFault::TooMany(n));
    }
    check_corners(&ring.0, true)?;
    if ring.line().scan_for_self_intersect() {
        return Err(ShapeFault::Crossing(crossing(ring)));
    }
    // A square of one centimetre is the least that can be drawn.
    if ring.signed_area().abs() < 1e-4 {
        return Err(ShapeFault::NoArea);
    }
    Ok(())
}

/// Where a ring crosses itself, for the message: the first pair of flattened edges that meet.
fn crossing(ring: &Outline) -> Point {
    let points = ring.flat(0.01);
    let n = points.len();
    for i in 0..n {
        let (a, b) = (points[i], points[(i + 1) % n]);
        for j in i + 2..n {
            if i == 0 && j == n - 1 {
                continue;
            }
            let (c, d) = (points[j], points[(j + 1) % n]);
            let (r, s) = (b - a, d - c);
            let cross = r.cross(s);
            let (t, u) = ((c - a).cross(s) / cross, (c - a).cross(r) / cross);
            if (-1e-9..=1.0 + 1e-9).contains(&t) && (-1e-9..=1.0 + 1e-9).contains(&u) {
                return a + r * t;
            }
        }
    }
    points[0]
}

/// Lowest and highest corner of the box round some points.
pub(crate) fn bounds(points: impl IntoIterator<Item = Point>) -> Option<(Point, Point)> {
    points.into_iter().fold(None, |found, p| {
        let (low, high) = found.unwrap_or((p, p));
        Some((Point::new(low.x.min(p.x), low.y.min(p.y)), Point::new(high.x.max(p.x), high.y.max(p.y))))
    })
}

fn boxes_meet(a: &[Vertex], b: &[Vertex]) -> bool {
    // An arc may reach beyond its corners by its own chord at most (half a circle) times its bulge.
    let grown = |vertices: &[Vertex]| {
        let reach = vertices.iter().map(|v| v.bulge.abs()).fold(0.0, f64::max) * 2.0;
        bounds(vertices.iter().map(|v| v.at)).map(|(l, h)| {
            let m = (h - l).norm() * reach;
            (l - Point::new(m, m), h + Point::new(m, m))
        })
    };
    match (grown(a), grown(b)) {
        (Some((al, ah)), Some((bl, bh))) => al.x <= bh.x && bl.x <= ah.x && al.y <= bh.y && bl.y <= ah.y,
        _ => false,
    }
}

/// Distance to a straight segment.
pub(crate) fn to_segment(p: Point, a: Point, b: Point) -> f64 {
    p.distance(nearest_on(p, a, b))
}

/// The point of a stretch that lies nearest to another point.
pub(crate) fn nearest_on(p: Point, a: Point, b: Point) -> Point {
    let d = b - a;
    let share = if d.dot(d) > 0.0 { ((p - a).dot(d) / d.dot(d)).clamp(0.0, 1.0) } else { 0.0 };
    a + d * share
}

/// Even-odd rule over straight rings.
pub(crate) fn inside(rings: &[Vec<Point>], p: Point) -> bool {
    let crossed = |ring: &Vec<Point>| {
        ring.iter()
            .zip(ring.iter().cycle().skip(1))
            .filter(|(a, b)| {
                (a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x
            })
            .count()
    };
    rings.iter().map(crossed).sum::<usize>() % 2 == 1
}
