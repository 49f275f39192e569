//! What may be dug: the ground as a digger sees it, and what a straight trench across it costs.

use crate::plan::{Plan, TrenchRules};
use crate::site::{AreaKind, DryKind, Form, ObjectKind, Point, Shape, cut, offset};
use crate::units::Length;

/// What lies on a piece of ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cover {
    /// A building, a wall, somebody else's ground, or marked as not to be dug: no trench.
    Barred,
    /// Paved: crossed in a sleeve.
    Paved,
    /// Within half the canopy of a tree: dug by hand, if at all.
    Roots,
    /// Along the foundation of a building, where mains should not lie.
    Foundation,
    /// The inside of a lawn, which is aerated and driven over: mains keep to its edge where that costs
    /// little.
    Lawn,
}

/// Less than this of a trench on barred or paved ground is the width of a line, m.
const TOUCH: f64 = 0.06;
/// How closely arcs are followed, m.
const FLAT: f64 = 0.05;
/// Canopies from here on are trees, m.
const TREE: f64 = 2.5;
/// Corners are gone round at so much, m.
const ROUND: f64 = 0.3;
/// Sleeves end so far beyond both edges (1 ft), m.
pub(crate) const BEYOND: f64 = 0.3048;
/// Widest paving that is crossed, m: further a sleeve is not pushed.
const WIDEST: f64 = 25.0;
/// A metre along a foundation is worth so much of a detour, m.
const BY_FOUNDATION: f64 = 0.5;
/// The same across the inside of a lawn, of main.
const ACROSS_LAWN: f64 = 0.25;
/// Lawns from here on have an inside, m2.
const LARGE_LAWN: f64 = 60.0;
/// Mains run along a lawn so far inside its edge, m.
const ALONG: f64 = 0.5;
/// Places to cross are looked for at so much along an edge, m.
const PORTALS: f64 = 2.5;
/// Most off a right angle at which the far edge may be met, as the cosine: 25 degrees.
const SQUARE: f64 = 0.906;

#[derive(Debug, Clone)]
struct Piece {
    cover: Cover,
    rings: Vec<Vec<Point>>,
    low: Point,
    high: Point,
    /// Name of the object, for findings.
    id: String,
}

impl Piece {
    fn new(cover: Cover, rings: Vec<Vec<Point>>, id: &str) -> Self {
        let mut low = Point::new(f64::MAX, f64::MAX);
        let mut high = Point::new(f64::MIN, f64::MIN);
        for p in rings.iter().flatten() {
            low = Point::new(low.x.min(p.x), low.y.min(p.y));
            high = Point::new(high.x.max(p.x), high.y.max(p.y));
        }
        Self { cover, rings, low, high, id: id.to_owned() }
    }

    fn contains(&self, p: Point) -> bool {
        let within = p.x >= self.low.x && p.x <= self.high.x && p.y >= self.low.y && p.y <= self.high.y;
        within && crate::site::inside(&self.rings, p)
    }

    fn edges(&self) -> impl Iterator<Item = (Point, Point)> + '_ {
        self.rings.iter().flat_map(|r| (0..r.len()).map(move |i| (r[i], r[(i + 1) % r.len()])))
    }

    /// Stretches of a straight line on it, as shares of the line.
    fn stretches(&self, a: Point, b: Point) -> Vec<(f64, f64)> {
        let apart = a.x.max(b.x) < self.low.x
            || a.x.min(b.x) > self.high.x
            || a.y.max(b.y) < self.low.y
            || a.y.min(b.y) > self.high.y;
        if apart {
            return Vec::new();
        }
        let along = b - a;
        let mut cuts = vec![0.0, 1.0];
        for (p, q) in self.edges() {
            let edge = q - p;
            let turn = along.cross(edge);
            if turn.abs() < 1e-12 {
                continue;
            }
            let t = (p - a).cross(edge) / turn;
            let s = (p - a).cross(along) / turn;
            if (0.0..=1.0).contains(&t) && (0.0..=1.0).contains(&s) {
                cuts.push(t);
            }
        }
        cuts.sort_by(f64::total_cmp);
        cuts.windows(2)
            .filter(|w| w[1] - w[0] > 1e-9 && self.contains(a + along * ((w[0] + w[1]) / 2.0)))
            .map(|w| (w[0], w[1]))
            .collect()
    }
}

/// A place to cross paving: at about a right angle, in a sleeve that ends beyond both edges.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Portal {
    /// One end.
    pub from: Point,
    /// The other.
    pub to: Point,
}

/// The ground of a job, for digging.
#[derive(Debug, Clone)]
pub struct Ground {
    pieces: Vec<Piece>,
    rules: TrenchRules,
    /// Points to go round by.
    pub(crate) corners: Vec<Point>,
    /// Places to cross.
    pub(crate) portals: Vec<Portal>,
}

impl Ground {
    /// Reads the plan's ground, with points to go round by and places to cross.
    pub fn of(plan: &Plan) -> Self {
        let mut ground = Self::covers(plan);
        ground.corners = ground.points_to_round(plan);
        ground.portals = ground.crossings();
        ground
    }

    /// The same for mains, which keep to the edges of lawns.
    pub fn for_mains(plan: &Plan) -> Self {
        let mut ground = Self::covers(plan);
        let mut edges: Vec<Point> = Vec::new();
        for (object, area) in plan.site.areas() {
            if area.kind != AreaKind::Lawn || area.shape.area_m2() < LARGE_LAWN {
                continue;
            }
            let inset = |by: f64| offset(&area.shape.outline, Length::from_m(-by)).unwrap_or_default();
            let inside = inset(2.0 * ALONG).iter().map(|r| r.flat(FLAT)).collect();
            ground.pieces.push(Piece::new(Cover::Lawn, inside, &object.id));
            edges.extend(inset(ALONG).iter().flat_map(|r| r.flat(FLAT * 8.0)));
        }
        edges.retain(|p| ground.free(*p));
        ground.corners = ground.points_to_round(plan);
        ground.corners.extend(edges);
        ground.portals = ground.crossings();
        ground
    }

    /// Only what lies where: enough to hold drawn pipe against.
    pub fn covers(plan: &Plan) -> Self {
        let mut pieces = Vec::new();
        for (place, object) in plan.site.objects.iter().enumerate() {
            match &object.what {
                ObjectKind::Dry(dry) => {
                    let cover = match dry.kind {
                        DryKind::Building | DryKind::Neighbour | DryKind::Wall | DryKind::NoDig => {
                            Cover::Barred
                        }
                        DryKind::Paving | DryKind::Path | DryKind::CarPark => Cover::Paved,
                        DryKind::Window => continue,
                    };
                    match &dry.form {
                        Form::Region(shape) => {
                            for part in left_open(plan, place, shape) {
                                let rings = part.rings().map(|r| r.flat(FLAT)).collect();
                                pieces.push(Piece::new(cover, rings, &object.id));
                            }
                        }
                        Form::Line(path) => {
                            pieces.push(Piece::new(cover, thick(&path.flat(FLAT)), &object.id))
                        }
                    }
                    if let (DryKind::Building, Form::Region(shape)) = (dry.kind, &dry.form) {
                        // A little less than the distance itself, so that ways at it lie outside.
                        let off = plan.rules.trench.off_buildings * 0.97;
                        let rings = offset(&shape.outline, off).unwrap_or_default();
                        let rings = rings.iter().map(|r| r.flat(FLAT)).collect();
                        pieces.push(Piece::new(Cover::Foundation, rings, &object.id));
                    }
                }
                ObjectKind::Plant(plant) if plant.canopy.m() >= TREE => {
                    // A row of trees is as many pieces as trees.
                    let half = plant.canopy.m() / 4.0;
                    let ring = |at: Point| (0..12).map(|k| at.toward(f64::from(k) * 30.0, half)).collect();
                    for at in plant.spots() {
                        pieces.push(Piece::new(Cover::Roots, vec![ring(at)], &object.id));
                    }
                }
                _ => {}
            }
        }
        Self { pieces, rules: plan.rules.trench.clone(), corners: Vec::new(), portals: Vec::new() }
    }

    /// Points a little off the corners of what is gone round.
    fn points_to_round(&self, plan: &Plan) -> Vec<Point> {
        let mut points = Vec::new();
        for object in &plan.site.objects {
            let ObjectKind::Dry(dry) = &object.what else {
                continue;
            };
            let off = match dry.kind {
                DryKind::Window => continue,
                DryKind::Building => self.rules.off_buildings.m().max(ROUND),
                _ => ROUND,
            };
            match &dry.form {
                Form::Region(shape) => {
                    for ring in shape.rings() {
                        let out = offset(ring, Length::from_m(off)).unwrap_or_default();
                        points.extend(out.iter().flat_map(|r| convex_corners(&r.flat(FLAT * 4.0))));
                    }
                }
                Form::Line(path) => {
                    for ring in thick(&path.flat(FLAT)) {
                        let out = offset(&crate::site::Outline::straight(&ring), Length::from_m(off));
                        points.extend(out.unwrap_or_default().iter().flat_map(|r| r.flat(FLAT * 4.0)));
                    }
                }
            }
        }
        for piece in self.pieces.iter().filter(|p| p.cover == Cover::Roots) {
            let middle = piece.low.middle(piece.high);
            let r = piece.high.x - middle.x + ROUND;
            points.extend((0..6).map(|k| middle.toward(f64::from(k) * 60.0, r / 0.866)));
        }
        points.retain(|p| self.free(*p));
        let mut kept: Vec<Point> = Vec::new();
        for p in points {
            if kept.iter().all(|k| k.distance(p) > ROUND) {
                kept.push(p);
            }
        }
        kept
    }

    fn crossings(&self) -> Vec<Portal> {
        let mut found: Vec<Portal> = Vec::new();
        for piece in self.pieces.iter().filter(|p| p.cover == Cover::Paved) {
            for (p, q) in piece.edges() {
                let long = p.distance(q);
                let steps = (long / PORTALS).ceil().max(1.0);
                for i in 0..steps as usize {
                    let at = p + (q - p) * ((i as f64 + 0.5) / steps);
                    // Both edges of a drive find the same crossings.
                    let new = self.portal(piece, p, q, at);
                    found.extend(new.filter(|n| !found.iter().any(|f| same(*f, *n))));
                }
            }
        }
        found
    }

    /// The crossing of a piece of paving that begins at a point of one of its edges.
    fn portal(&self, piece: &Piece, p: Point, q: Point, at: Point) -> Option<Portal> {
        let across = (q - p).unit()?.left();
        let inward = if piece.contains(at + across * TOUCH) { across } else { across * -1.0 };
        let mut far: Option<(f64, Point)> = None;
        for (a, b) in piece.edges() {
            let edge = b - a;
            let turn = inward.cross(edge);
            if turn.abs() < 1e-12 {
                continue;
            }
            let t = (a - at).cross(edge) / turn;
            let s = (a - at).cross(inward) / turn;
            if t > TOUCH && (0.0..=1.0).contains(&s) && far.is_none_or(|f| t < f.0) {
                far = Some((t, edge));
            }
        }
        let (width, edge) = far.filter(|f| f.0 <= WIDEST)?;
        let square = edge.unit()?.left().dot(inward).abs();
        let portal = Portal { from: at - inward * BEYOND, to: at + inward * (width + BEYOND) };
        (square >= SQUARE && self.free(portal.from) && self.free(portal.to)).then_some(portal)
    }

    /// Crossings straight out from a point: where paving lies before it.
    pub(crate) fn portals_from(&self, at: Point) -> Vec<Portal> {
        let mut found = Vec::new();
        for piece in self.pieces.iter().filter(|p| p.cover == Cover::Paved) {
            for (p, q) in piece.edges() {
                let Some(along) = (q - p).unit() else { continue };
                let t = (at - p).dot(along);
                let foot = p + along * t;
                if t > 0.0 && t < p.distance(q) && foot.distance(at) < WIDEST {
                    found.extend(self.portal(piece, p, q, foot));
                }
            }
        }
        found
    }

    /// Neither barred nor paved.
    pub fn free(&self, at: Point) -> bool {
        !self.pieces.iter().any(|p| matches!(p.cover, Cover::Barred | Cover::Paved) && p.contains(at))
    }

    /// What lies under a point of a kind, by the object's name.
    pub fn at(&self, at: Point, cover: Cover) -> Option<&str> {
        let here = self.pieces.iter().find(|p| p.cover == cover && p.contains(at));
        here.map(|p| p.id.as_str())
    }

    /// Length of a straight line on ground of a kind, with the first object of it; the width of a line
    /// counts as none.
    pub fn length_on(&self, a: Point, b: Point, cover: Cover) -> (f64, Option<&str>) {
        let long = a.distance(b);
        let (mut sum, mut first) = (0.0, None);
        for piece in self.pieces.iter().filter(|p| p.cover == cover) {
            let here: f64 = piece.stretches(a, b).iter().map(|(s, t)| (t - s) * long).sum();
            if here > TOUCH {
                sum += here;
                first = first.or(Some(piece.id.as_str()));
            }
        }
        (sum, first)
    }

    /// Stretches of a straight line on paving, as shares of it.
    pub fn paved(&self, a: Point, b: Point) -> Vec<(f64, f64)> {
        let long = a.distance(b);
        let paved = self.pieces.iter().filter(|p| p.cover == Cover::Paved);
        paved.flat_map(|p| p.stretches(a, b)).filter(|(s, t)| (t - s) * long > TOUCH).collect()
    }

    /// What a straight trench costs, as metres of plain trench. None: it may not be dug, or paving lies
    /// in the way, which is crossed by portals alone.
    pub fn trench(&self, a: Point, b: Point) -> Option<f64> {
        let long = a.distance(b);
        let mut cost = long;
        for piece in &self.pieces {
            let here: f64 = piece.stretches(a, b).iter().map(|(s, t)| (t - s) * long).sum();
            if here <= TOUCH {
                continue;
            }
            match piece.cover {
                Cover::Barred | Cover::Paved => return None,
                Cover::Roots => cost += here * (self.rules.rooted - 1.0).max(0.0),
                Cover::Foundation => cost += here * BY_FOUNDATION,
                Cover::Lawn => cost += here * ACROSS_LAWN,
            }
        }
        Some(cost)
    }

    /// What a crossing costs, as metres of plain trench.
    pub fn crossing(&self, portal: Portal) -> f64 {
        self.rules.crossing.m() + portal.from.distance(portal.to) * self.rules.paved
    }
}

/// What is left of a shape once watered ground that was drawn on top of it is taken out: islands in a
/// car park.
fn left_open(plan: &Plan, place: usize, shape: &Shape) -> Vec<Shape> {
    let mut parts = vec![shape.clone()];
    for object in &plan.site.objects[place + 1..] {
        let ObjectKind::Area(area) = &object.what else {
            continue;
        };
        parts = parts
            .into_iter()
            .flat_map(|part| cut(&part, &[&area.shape]).unwrap_or_else(|_| vec![part.clone()]))
            .collect();
    }
    parts
}

fn same(a: Portal, b: Portal) -> bool {
    let near = |p: Point, q: Point| p.distance(q) < 0.1;
    near(a.from, b.from) && near(a.to, b.to) || near(a.from, b.to) && near(a.to, b.from)
}

/// A line as ground of a hand's width to both sides.
fn thick(line: &[Point]) -> Vec<Vec<Point>> {
    line.windows(2)
        .filter_map(|w| {
            let side = (w[1] - w[0]).unit()?.left() * 0.1;
            Some(vec![w[0] - side, w[1] - side, w[1] + side, w[0] + side])
        })
        .collect()
}

/// Corners that stick out: only these lie on shortest ways round.
fn convex_corners(ring: &[Point]) -> Vec<Point> {
    let n = ring.len();
    let area: f64 = (0..n).map(|i| ring[i].cross(ring[(i + 1) % n])).sum();
    (0..n)
        .filter(|&i| {
            let (a, b, c) = (ring[(i + n - 1) % n], ring[i], ring[(i + 1) % n]);
            (b - a).cross(c - b) * area.signum() > 1e-9
        })
        .map(|i| ring[i])
        .collect()
}
