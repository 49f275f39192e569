use super::point::{Motion, Point};
use cavalier_contours::polyline::{PlineCreation, PlineSource, PlineSourceMut, Polyline};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A corner, and how the edge that leaves it bends. In files `[x, y]` or `[x, y, bulge]`.
///
/// The *bulge* is the tangent of a quarter of the arc's angle: 0 straight, 1 half a circle, positive
/// where the edge turns to the left. It is the rise over half the chord.
#[derive(Debug, Clone, Copy, PartialEq, JsonSchema)]
#[schemars(with = "Vec<f64>")]
pub struct Vertex {
    /// Where.
    pub at: Point,
    /// Bend of the edge to the next corner; within -10 to 10.
    pub bulge: f64,
}

impl Serialize for Vertex {
    fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        if self.bulge == 0.0 {
            [self.at.x, self.at.y].serialize(s)
        } else {
            [self.at.x, self.at.y, self.bulge].serialize(s)
        }
    }
}
impl<'de> Deserialize<'de> for Vertex {
    fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        struct Numbers;
        impl<'de> serde::de::Visitor<'de> for Numbers {
            type Value = Vertex;
            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a corner as [x, y] or [x, y, bulge] in meters")
            }
            fn visit_seq<A: serde::de::SeqAccess<'de>>(self, mut seq: A) -> Result<Vertex, A::Error> {
                use serde::de::Error;
                let mut next =
                    |i| seq.next_element::<f64>()?.ok_or_else(|| A::Error::invalid_length(i, &self));
                let at = Point::new(next(0)?, next(1)?);
                let bulge = seq.next_element()?.unwrap_or(0.0);
                match seq.next_element::<serde::de::IgnoredAny>()? {
                    None => Ok(Vertex { at, bulge }),
                    Some(_) => Err(A::Error::invalid_length(4, &self)),
                }
            }
        }
        d.deserialize_seq(Numbers)
    }
}

impl Vertex {
    /// A corner with a straight edge after it.
    pub const fn new(x: f64, y: f64) -> Self {
        Self { at: Point::new(x, y), bulge: 0.0 }
    }
}

/// A closed ring of three or more corners (two, where arcs join them).
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct Outline(pub Vec<Vertex>);

/// An open line of two or more corners; the bulge of the last is not used.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct Path(pub Vec<Vertex>);

/// One edge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Edge {
    /// Start.
    pub from: Point,
    /// End.
    pub to: Point,
    /// See [`Vertex`].
    pub bulge: f64,
}

impl Edge {
    /// Metres along the edge.
    pub fn length(&self) -> f64 {
        let chord = self.from.distance(self.to);
        match self.radius() {
            None => chord,
            Some(radius) => radius * self.angle().abs(),
        }
    }
    /// The angle the arc turns through, radians; 0 for a straight edge.
    pub fn angle(&self) -> f64 {
        4.0 * self.bulge.atan()
    }
    /// Metres; none for a straight edge.
    pub fn radius(&self) -> Option<f64> {
        let b = self.bulge.abs();
        (b > 1e-9).then(|| self.from.distance(self.to) * (1.0 + b * b) / (4.0 * b))
    }
    /// Area between chord and arc, m2: positive to the right of the chord.
    fn segment(&self) -> f64 {
        self.radius().map_or(0.0, |r| {
            let angle = self.angle();
            r * r / 2.0 * (angle - angle.sin())
        })
    }
    /// Centre of the arc's circle.
    pub fn centre(&self) -> Option<Point> {
        self.radius()?;
        let half = self.from.distance(self.to) / 2.0;
        let along = (self.to - self.from).unit()?;
        let b = self.bulge;
        Some(self.from.middle(self.to) + along.left() * (half * (1.0 - b * b) / (2.0 * b)))
    }
    /// The point at a share (0 to 1) of the way.
    pub fn at(&self, share: f64) -> Point {
        match self.centre() {
            None => self.from + (self.to - self.from) * share,
            Some(centre) => {
                Motion::Turn { about: centre, degrees: (self.angle() * share).to_degrees() }.of(self.from)
            }
        }
    }
    /// Bulge of a part of the arc.
    pub fn bulge_of(&self, share: f64) -> f64 {
        (self.angle() * share / 4.0).tan()
    }
}

fn edges(vertices: &[Vertex], closed: bool) -> impl Iterator<Item = Edge> + '_ {
    let n = vertices.len();
    let count = if closed { n } else { n.saturating_sub(1) };
    (0..count).map(move |i| Edge {
        from: vertices[i].at,
        to: vertices[(i + 1) % n].at,
        bulge: vertices[i].bulge,
    })
}

fn moved(vertices: &[Vertex], motion: Motion) -> Vec<Vertex> {
    let sign = if motion.flips() { -1.0 } else { 1.0 };
    vertices.iter().map(|v| Vertex { at: motion.of(v.at), bulge: v.bulge * sign }).collect()
}

/// Straight pieces that stay within `tolerance` metres of every arc.
fn flat(edges: impl Iterator<Item = Edge>, tolerance: f64) -> Vec<Point> {
    let mut points = Vec::new();
    for edge in edges {
        points.push(edge.from);
        if let Some(radius) = edge.radius() {
            let step = 2.0 * (1.0 - (tolerance / radius).min(1.0)).acos().max(1e-3);
            let pieces = ((edge.angle().abs() / step).ceil() as usize).clamp(1, 256);
            points.extend((1..pieces).map(|i| edge.at(i as f64 / pieces as f64)));
        }
    }
    points
}

fn polyline(vertices: &[Vertex], closed: bool) -> Polyline<f64> {
    let mut line = Polyline::with_capacity(vertices.len(), closed);
    vertices.iter().for_each(|v| line.add(v.at.x, v.at.y, v.bulge));
    line
}

impl Outline {
    /// A ring of straight edges.
    pub fn straight(points: &[Point]) -> Self {
        Self(points.iter().map(|&at| Vertex { at, bulge: 0.0 }).collect())
    }
    /// Its edges, from the first corner round.
    pub fn edges(&self) -> impl Iterator<Item = Edge> + '_ {
        edges(&self.0, true)
    }
    /// m2; positive where the corners go counter-clockwise. Exact for arcs.
    pub fn signed_area(&self) -> f64 {
        // From the first corner rather than the origin: fewer digits are lost far from it.
        let o = self.0.first().map_or_else(Point::default, |v| v.at);
        self.edges().map(|e| (e.from - o).cross(e.to - o) / 2.0 + e.segment()).sum()
    }
    /// Metres round.
    pub fn perimeter(&self) -> f64 {
        self.edges().map(|e| e.length()).sum()
    }
    /// Corners with arcs cut into straight pieces, within a tolerance in meters.
    pub fn flat(&self, tolerance: f64) -> Vec<Point> {
        flat(self.edges(), tolerance)
    }
    /// Moved, turned or mirrored.
    pub fn moved(&self, motion: Motion) -> Self {
        Self(moved(&self.0, motion))
    }
    /// The same ring the other way round.
    pub fn reversed(&self) -> Self {
        let n = self.0.len();
        Self(
            (0..n)
                .rev()
                .map(|i| Vertex { at: self.0[i].at, bulge: -self.0[(i + n - 1) % n].bulge })
                .collect(),
        )
    }
    /// Counter-clockwise.
    pub fn wound(&self) -> Self {
        if self.signed_area() < 0.0 { self.reversed() } else { self.clone() }
    }
    /// True if the point is inside; on the edge either.
    pub fn contains(&self, p: Point) -> bool {
        self.line().winding_number(cavalier_contours::core::math::Vector2::new(p.x, p.y)) != 0
    }
    pub(super) fn line(&self) -> Polyline<f64> {
        polyline(&self.0, true)
    }
    pub(super) fn of(line: &Polyline<f64>) -> Self {
        Self(
            line.iter_vertexes()
                .map(|v| Vertex {
                    at: Point::new(v.x, v.y),
                    bulge: if v.bulge.abs() < 1e-9 { 0.0 } else { v.bulge },
                })
                .collect(),
        )
    }
}

impl Path {
    /// A line of straight edges.
    pub fn straight(points: &[Point]) -> Self {
        Self(points.iter().map(|&at| Vertex { at, bulge: 0.0 }).collect())
    }
    /// Its edges, in order.
    pub fn edges(&self) -> impl Iterator<Item = Edge> + '_ {
        edges(&self.0, false)
    }
    /// Metres from end to end along it.
    pub fn length(&self) -> f64 {
        self.edges().map(|e| e.length()).sum()
    }
    /// See [`Outline::flat`].
    pub fn flat(&self, tolerance: f64) -> Vec<Point> {
        let mut points = flat(self.edges(), tolerance);
        points.extend(self.0.last().map(|v| v.at));
        points
    }
    /// Moved, turned or mirrored.
    pub fn moved(&self, motion: Motion) -> Self {
        Self(moved(&self.0, motion))
    }
    pub(super) fn line(&self) -> Polyline<f64> {
        polyline(&self.0, false)
    }
    pub(super) fn of(line: &Polyline<f64>) -> Self {
        Self(Outline::of(line).0)
    }
}
