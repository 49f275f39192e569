use super::DripFault;
use crate::plan::Plan;
use crate::site::{
    Area, AreaKind, DryKind, Form, KeepDry, ObjectKind, Outline, Point, Shape, cut, height_at, offset,
};
use crate::units::Length;

/// Rows keep so far off a building's foundation, m.
const OFF_FOUNDATION: f64 = 0.3;
/// Plants with a canopy from here on are trees: rows go round their trunks, m.
const TREE: f64 = 2.4;
/// Ground that falls by so much has its rows along the contour, percent.
pub(super) const CONTOUR_FROM_PERCENT: f64 = 5.0;
/// Arcs become straight pieces within so much, m.
const FLAT: f64 = 0.01;

/// What of an area takes rows: its pieces, turned so that rows run along `x`.
#[derive(Debug)]
pub(super) struct RowGround {
    /// Radians counter-clockwise from the right that the rows run.
    heading: f64,
    /// Parts that lie apart.
    pub pieces: Vec<Piece>,
    /// All of them, before they were drawn in, m2.
    pub m2: f64,
}

/// A piece of ground drawn in by the distance that rows keep off its edge.
#[derive(Debug)]
pub(super) struct Piece {
    outer: Vec<Vec<Point>>,
    holes: Vec<Vec<Point>>,
    /// From its lowest to its highest `y`.
    pub low: f64,
    pub high: f64,
}

impl RowGround {
    pub fn of(
        plan: &Plan,
        area: &str,
        edge: Length,
        heading: Option<f64>,
        buried: bool,
    ) -> Result<Self, DripFault> {
        let ground = plan.site.area(area).ok_or(DripFault::NoArea)?;
        let whole = what_is_left(plan, area, edge, buried)?;
        let heading = heading.map_or_else(|| usual_heading(plan, ground, &whole), f64::to_radians);
        let m2 = whole.iter().map(Shape::area_m2).sum();
        let mut pieces = Vec::new();
        for shape in &whole {
            pieces.extend(Piece::of(shape, edge, heading));
        }
        if pieces.is_empty() {
            let width = whole.iter().map(width).fold(0.0, f64::max);
            let width = Length::from_m(width);
            return Err(DripFault::TooNarrow { width, edge });
        }
        Ok(Self { heading, pieces, m2 })
    }

    /// Radians counter-clockwise from the right that rows run.
    pub fn heading(&self) -> f64 {
        self.heading
    }

    /// A point of the turned ground on the plan.
    pub fn back(&self, p: Point) -> Point {
        turned(p, self.heading)
    }
}

/// The area without what lies on top of it, trunks, foundations and, below ground, what may not be dug.
fn what_is_left(plan: &Plan, area: &str, edge: Length, buried: bool) -> Result<Vec<Shape>, DripFault> {
    let own = (plan.site.objects.iter()).position(|o| o.id == area).ok_or(DripFault::NoArea)?;
    let shape = plan.site.area(area).ok_or(DripFault::NoArea)?.shape.clone();
    let inner = shape.inner_point();
    let mut cutters: Vec<Shape> = Vec::new();
    for (place, object) in plan.site.objects.iter().enumerate() {
        match &object.what {
            ObjectKind::Dry(KeepDry { kind: DryKind::Building, form: Form::Region(region), .. }) => {
                // A courtyard or a roof garden lies on its building.
                if place < own && region.contains(inner) {
                    continue;
                }
                let off = Length::from_m(OFF_FOUNDATION) - edge;
                match offset(&region.outline, off) {
                    Ok(rings) if off > Length::ZERO => cutters.extend(rings.into_iter().map(Shape::plain)),
                    _ => cutters.push(region.clone()),
                }
            }
            ObjectKind::Dry(KeepDry { kind, form: Form::Region(region), .. })
                if place > own && (*kind != DryKind::NoDig || buried) =>
            {
                cutters.push(region.clone());
            }
            // Containers stand on the ground that is drawn under them.
            ObjectKind::Area(other) if place > own && other.kind != AreaKind::Containers => {
                cutters.push(other.shape.clone());
            }
            ObjectKind::Plant(plant) if plant.canopy.m() >= TREE => {
                let trunk = (plant.canopy.m() / 12.0).clamp(0.15, 0.6);
                cutters.extend(plant.spots().into_iter().map(|at| disc(at, trunk)));
            }
            _ => {}
        }
    }
    let cutters: Vec<&Shape> = cutters.iter().filter(|c| c.area_m2() > 1e-4).collect();
    let mut pieces = match cut(&shape, &cutters) {
        Ok(pieces) => pieces,
        Err(crate::site::CombineError::NoOverlap) => vec![shape],
        Err(_) => return Err(DripFault::NothingLeft),
    };
    // The same order however the area was drawn: the largest first is not enough for equals.
    pieces.sort_by(|a, b| key(a).partial_cmp(&key(b)).unwrap_or(std::cmp::Ordering::Equal));
    Ok(pieces)
}

fn key(shape: &Shape) -> (f64, f64, f64) {
    let p = shape.outline.flat(FLAT);
    let low = p.iter().fold((f64::MAX, f64::MAX), |l, p| (l.0.min(p.x), l.1.min(p.y)));
    (-(shape.area_m2() * 100.0).round(), low.0, low.1)
}

fn disc(at: Point, radius: f64) -> Shape {
    let corners: Vec<Point> = (0..12).map(|i| at.toward(f64::from(i) * 30.0, radius)).collect();
    Shape::plain(Outline::straight(&corners))
}

/// Along the contour where the ground falls, else along the longest straight edge; where all edges are
/// arcs, the way that the ground is narrowest across.
fn usual_heading(plan: &Plan, area: &Area, pieces: &[Shape]) -> f64 {
    let along = |fall: Point| fall.left().y.atan2(fall.left().x).rem_euclid(std::f64::consts::PI);
    if let Some(toward) = area.slope_toward.filter(|_| area.slope_percent >= CONTOUR_FROM_PERCENT) {
        return along(Point::default().toward(90.0 - toward, 1.0));
    }
    if let Some(rise) = gradient(plan, area).filter(|g| g.norm() * 100.0 >= CONTOUR_FROM_PERCENT) {
        return along(rise);
    }
    let edges = pieces.iter().flat_map(|s| s.outline.edges().collect::<Vec<_>>());
    let straight = edges.filter(|e| e.bulge == 0.0);
    let longest = straight.fold(None::<(f64, f64)>, |best, e| match best {
        Some((length, _)) if e.length() <= length + 0.01 => best,
        _ => Some((e.length(), e.from.direction_to(e.to).to_radians())),
    });
    let round = |h: f64| h.rem_euclid(std::f64::consts::PI);
    let (_, narrow) = narrowest(pieces);
    match longest {
        // An edge that is short beside the whole says nothing of it.
        Some((length, heading)) if length * 4.0 >= pieces.iter().map(extent).fold(0.0, f64::max) => {
            round(heading)
        }
        _ => round(narrow),
    }
}

/// How the ground rises over an area by spot heights: the plane that lies nearest to its edge and middle
/// (least squares). None where no heights are measured.
fn gradient(plan: &Plan, area: &Area) -> Option<Point> {
    let spots = plan.site.heights();
    let mut points = area.shape.outline.flat(0.5);
    points.push(area.shape.inner_point());
    let heights: Vec<f64> = points.iter().filter_map(|p| Some(height_at(&spots, *p)?.m())).collect();
    if heights.len() < points.len() {
        return None;
    }
    let n = points.len() as f64;
    let middle = points.iter().fold(Point::default(), |s, p| s + *p) * (1.0 / n);
    let mean = heights.iter().sum::<f64>() / n;
    let (mut xx, mut xy, mut yy, mut xz, mut yz) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for (p, h) in points.iter().zip(&heights) {
        let (d, z) = (*p - middle, h - mean);
        xx += d.x * d.x;
        xy += d.x * d.y;
        yy += d.y * d.y;
        xz += d.x * z;
        yz += d.y * z;
    }
    let det = xx * yy - xy * xy;
    (det.abs() > 1e-9).then(|| Point::new((xz * yy - yz * xy) / det, (yz * xx - xz * xy) / det))
}

fn extent(shape: &Shape) -> f64 {
    let points = shape.outline.flat(FLAT);
    let far = |p: &Point| points.iter().map(|q| q.distance(*p)).fold(0.0, f64::max);
    points.first().map_or(0.0, far)
}

/// Least width of the pieces over headings of 5 degrees, and the heading along it.
fn narrowest(pieces: &[Shape]) -> (f64, f64) {
    let points: Vec<Point> = pieces.iter().flat_map(|s| s.outline.flat(0.05)).collect();
    (0..36)
        .map(|i| f64::from(i) * 5f64.to_radians())
        .map(|heading| {
            let across = points.iter().map(|p| turned(*p, -heading).y);
            let (low, high) = across.fold((f64::MAX, f64::MIN), |(l, h), y| (l.min(y), h.max(y)));
            (high - low, heading)
        })
        .min_by(|a, b| (a.0 + 1e-9).total_cmp(&b.0))
        .unwrap_or_default()
}

fn width(shape: &Shape) -> f64 {
    narrowest(std::slice::from_ref(shape)).0
}

pub(super) fn turned(p: Point, radians: f64) -> Point {
    let (sin, cos) = radians.sin_cos();
    Point::new(p.x * cos - p.y * sin, p.x * sin + p.y * cos)
}

impl Piece {
    /// One for each ring that is left inside when the edge is drawn in.
    fn of(shape: &Shape, edge: Length, heading: f64) -> Vec<Self> {
        let drawn_in = |ring: &Outline, by: f64| match by.abs() {
            small if small < 1e-3 => vec![ring.clone()],
            _ => offset(ring, Length::from_m(by)).unwrap_or_default(),
        };
        let flat = |ring: &Outline| -> Vec<Point> {
            ring.flat(FLAT).into_iter().map(|p| turned(p, -heading)).collect()
        };
        let holes: Vec<Vec<Point>> =
            (shape.holes.iter()).flat_map(|h| drawn_in(h, edge.m())).map(|h| flat(&h)).collect();
        let outer = drawn_in(&shape.outline, -edge.m());
        let mut pieces: Vec<Self> = outer
            .iter()
            .map(|ring| {
                let ring = flat(ring);
                let (low, high) =
                    ring.iter().fold((f64::MAX, f64::MIN), |(l, h), p| (l.min(p.y), h.max(p.y)));
                Self { outer: vec![ring], holes: holes.clone(), low, high }
            })
            .collect();
        pieces.sort_by(|a, b| a.low.total_cmp(&b.low));
        pieces
    }

    /// Where a line across at `y` runs inside, from left to right.
    pub fn spans(&self, y: f64) -> Vec<(f64, f64)> {
        let y = y.clamp(self.low + 1e-7, self.high - 1e-7);
        let mut spans: Vec<(f64, f64)> = self.outer.iter().flat_map(|r| crossings(r, y)).collect();
        spans.sort_by(|a, b| a.0.total_cmp(&b.0));
        for hole in self.holes.iter().flat_map(|r| crossings(r, y)) {
            spans = spans.into_iter().flat_map(|s| less(s, hole)).collect();
        }
        spans
    }

    /// A straight way lies inside, but for a hair at its ends.
    pub fn clear(&self, a: Point, b: Point) -> bool {
        (1..12).all(|i| {
            let p = a + (b - a) * (f64::from(i) / 12.0);
            let spans = self.spans(p.y);
            spans.iter().any(|s| s.0 - 0.03 <= p.x && p.x <= s.1 + 0.03)
        })
    }
}

/// Pairs of crossings of a ring with a line across.
fn crossings(ring: &[Point], y: f64) -> Vec<(f64, f64)> {
    let mut xs: Vec<f64> = ring
        .iter()
        .zip(ring.iter().cycle().skip(1))
        .filter(|(a, b)| (a.y <= y) != (b.y <= y))
        .map(|(a, b)| a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y))
        .collect();
    xs.sort_by(f64::total_cmp);
    xs.chunks_exact(2).map(|pair| (pair[0], pair[1])).collect()
}

/// A span without another.
fn less(span: (f64, f64), gone: (f64, f64)) -> Vec<(f64, f64)> {
    if gone.1 <= span.0 || gone.0 >= span.1 {
        return vec![span];
    }
    let left = (span.0, gone.0);
    let right = (gone.1, span.1);
    [left, right].into_iter().filter(|s| s.1 > s.0).collect()
}
