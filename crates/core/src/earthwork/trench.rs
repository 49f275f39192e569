//! Trenches: what is dug for the pipes of a plan. Pipes that run side by side lie in one.

use super::ground::{BEYOND, Cover, Ground};
use crate::job::Job;
use crate::plan::{JointKind, PipeLeg};
use crate::site::Point;
use crate::units::Length;

/// Pipes nearer than this to one another share a trench, m.
const BESIDE: f64 = 0.30;
/// Cosine of the widest angle between pipes of one trench: 8 degrees.
const ALONG: f64 = 0.990;

/// A trench, named by the first leg that it was dug for.
#[derive(Debug, Clone, PartialEq)]
pub struct Trench {
    /// Its name.
    pub id: String,
    /// What is dug, in straight stretches.
    pub stretches: Vec<(Point, Point)>,
    /// Dug, m: shared stretches once, what is pushed under paving not.
    pub length: Length,
    /// Of that among roots.
    pub rooted: Length,
    /// As deep as the deepest pipe in it.
    pub depth: Length,
    /// Legs that lie in it, at least in part.
    pub legs: Vec<String>,
}

/// A crossing of paving.
#[derive(Debug, Clone, PartialEq)]
pub struct Crossing {
    /// The leg that crosses first.
    pub leg: String,
    /// Ends of the sleeve: 1 ft beyond both edges.
    pub from: Point,
    /// The other end.
    pub to: Point,
    /// In a sleeve.
    pub sleeved: bool,
}

/// What a job's pipes have dug.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Earthwork {
    /// Trenches.
    pub trenches: Vec<Trench>,
    /// Crossings.
    pub crossings: Vec<Crossing>,
}

impl Earthwork {
    /// Trench in all, crossings too.
    pub fn length(&self) -> Length {
        let dug: f64 = self.trenches.iter().map(|t| t.length.m()).sum();
        let pushed: f64 = self.crossings.iter().map(|c| c.from.distance(c.to)).sum();
        Length::from_m(dug + pushed)
    }
}

/// The depth of a leg: its own, or the house's for its kind; deeper where sleeves are.
pub fn depth_of(job: &Job, leg: &PipeLeg) -> Length {
    let rules = &job.rules.trench;
    leg.depth.unwrap_or(if leg.is_main() { rules.main_depth } else { rules.lateral_depth })
}

/// The trenches of a job, mains first, then laterals by valve.
pub fn earthwork(job: &Job, ground: &Ground) -> Earthwork {
    let mut work = Earthwork::default();
    let mut dug: Vec<(Point, Point, usize)> = Vec::new();
    let mut legs: Vec<&PipeLeg> = job.piping.legs.iter().collect();
    legs.sort_by_key(|l| !l.is_main());
    for leg in legs {
        let Some(way) = job.way_of(leg) else { continue };
        let depth = depth_of(job, leg);
        let mut own: Option<usize> = None;
        for w in way.windows(2) {
            let long = w[0].distance(w[1]);
            if long < 1e-6 {
                continue;
            }
            let paved = ground.paved(w[0], w[1]);
            for &(s, t) in &paved {
                let along = (w[1] - w[0]) * (1.0 / long);
                let crossing = Crossing {
                    leg: leg.id.clone(),
                    from: w[0] + along * (s * long - BEYOND),
                    to: w[0] + along * (t * long + BEYOND),
                    sleeved: leg.sleeve.is_some(),
                };
                let there = |c: &Crossing| {
                    let near = |p: Point, q: Point| p.distance(q) < 2.0 * BESIDE;
                    near(c.from, crossing.from) && near(c.to, crossing.to)
                        || near(c.from, crossing.to) && near(c.to, crossing.from)
                };
                match work.crossings.iter_mut().find(|c| there(c)) {
                    Some(known) => known.sleeved &= crossing.sleeved,
                    None => work.crossings.push(crossing),
                }
            }
            // What is not paved and not dug yet is dug now.
            let mut taken: Vec<(f64, f64)> = paved;
            for (a, b, trench) in &dug {
                if let Some(shared) = beside(w[0], w[1], *a, *b) {
                    taken.push(shared);
                    let trench = &mut work.trenches[*trench];
                    trench.depth = trench.depth.max(depth);
                    if !trench.legs.contains(&leg.id) {
                        trench.legs.push(leg.id.clone());
                    }
                }
            }
            for (s, t) in gaps(taken) {
                if (t - s) * long < 0.05 {
                    continue;
                }
                let (a, b) = (w[0] + (w[1] - w[0]) * s, w[0] + (w[1] - w[0]) * t);
                let trench = *own.get_or_insert_with(|| {
                    work.trenches.push(Trench {
                        id: format!("t{}", work.trenches.len() + 1),
                        stretches: Vec::new(),
                        length: Length::ZERO,
                        rooted: Length::ZERO,
                        depth,
                        legs: vec![leg.id.clone()],
                    });
                    work.trenches.len() - 1
                });
                let rooted = ground.length_on(a, b, Cover::Roots).0;
                let into = &mut work.trenches[trench];
                into.stretches.push((a, b));
                into.length = into.length + Length::from_m((t - s) * long);
                into.rooted = into.rooted + Length::from_m(rooted);
                dug.push((a, b, trench));
            }
        }
    }
    work
}

/// The stretch of a line, as shares of it, that runs beside another.
pub(crate) fn beside(a: Point, b: Point, p: Point, q: Point) -> Option<(f64, f64)> {
    let (along, other) = ((b - a).unit()?, (q - p).unit()?);
    let far = a.x.max(b.x) + BESIDE < p.x.min(q.x)
        || p.x.max(q.x) + BESIDE < a.x.min(b.x)
        || a.y.max(b.y) + BESIDE < p.y.min(q.y)
        || p.y.max(q.y) + BESIDE < a.y.min(b.y);
    if far || along.dot(other).abs() < ALONG {
        return None;
    }
    let long = a.distance(b);
    let (s, t) = ((p - a).dot(along) / long, (q - a).dot(along) / long);
    let (s, t) = (s.min(t).max(0.0), s.max(t).min(1.0));
    let off = |x: f64| crate::site::to_segment(a + (b - a) * x, p, q);
    (t - s > 1e-6 && off(s) < BESIDE && off(t) < BESIDE).then_some((s, t))
}

/// What of a line the given stretches leave over.
pub(crate) fn gaps(mut taken: Vec<(f64, f64)>) -> Vec<(f64, f64)> {
    taken.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut at = 0.0;
    let mut left = Vec::new();
    for (s, t) in taken {
        if s > at {
            left.push((at, s));
        }
        at = f64::max(at, t);
    }
    if at < 1.0 {
        left.push((at, 1.0));
    }
    left
}

/// What pipe, trench, crossings, tees and boxes cost by the house's rules.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Costs {
    /// Digging, without crossings.
    pub trench: f64,
    /// Crossings.
    pub crossings: f64,
    /// Pipe and sleeves.
    pub pipe: f64,
    /// Tees.
    pub tees: f64,
    /// Boxes that valves stand in.
    pub boxes: f64,
}

impl Costs {
    /// In all.
    pub fn total(&self) -> f64 {
        self.trench + self.crossings + self.pipe + self.tees + self.boxes
    }
}

fn number(price: rust_decimal::Decimal) -> f64 {
    f64::try_from(price).unwrap_or(0.0)
}

/// What a metre of pipe costs by the house's rule: by the square of its bore.
pub fn pipe_price(job: &Job, inside: Length) -> f64 {
    number(job.rules.trench.pipe) * inside.inches().powi(2)
}

/// What a metre of plain trench costs.
pub(crate) fn trench_price(job: &Job) -> f64 {
    number(job.rules.trench.price)
}

/// What the drawn pipes cost.
pub fn costs(job: &Job, work: &Earthwork) -> Costs {
    let rules = &job.rules.trench;
    let metre = trench_price(job);
    let mut costs = Costs::default();
    for t in &work.trenches {
        costs.trench += metre * (t.length.m() + (rules.rooted - 1.0) * t.rooted.m());
    }
    let bore = |id: &crate::catalogue::PipeId| job.catalogue().pipe(id).map_or(Length::ZERO, |p| p.inside);
    for c in &work.crossings {
        let long = c.from.distance(c.to);
        costs.crossings += metre * (rules.crossing.m() + long * rules.paved);
        if let Some(sleeve) = job.piping.leg(&c.leg).and_then(|l| l.sleeve.as_ref()) {
            costs.pipe += pipe_price(job, bore(sleeve)) * long * f64::from(1 + rules.spare_sleeves);
        }
    }
    for leg in &job.piping.legs {
        let way = job.way_of(leg).unwrap_or_default();
        let long: f64 = way.windows(2).map(|w| w[0].distance(w[1])).sum();
        costs.pipe += pipe_price(job, bore(&leg.pipe)) * long;
    }
    let tees = job.piping.joints.iter().filter(|j| j.kind == JointKind::Tee);
    costs.tees = number(rules.tee) * tees.count() as f64;
    let mut boxes: Vec<&str> = job.valves.iter().filter_map(|v| job.box_of(v)).collect();
    boxes.sort_unstable();
    boxes.dedup();
    costs.boxes = number(rules.valve_box) * boxes.len() as f64;
    costs
}
