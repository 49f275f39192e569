//! The search for a layout: places for every throw, the nozzles that suit them, the best of them searched on.

use super::family::Family;
use super::field::Field;
use super::fit::{Fitter, Sector};
use super::improve::CastWater;
use super::place::{Inside, place};
use super::price::{Prices, pressure_at_heads};
use super::proposal::{LayoutFault, Proposal, audit};
use super::score::{Score, applied, audited, judge, measure};
use super::strips::strips;
use super::trial::{Proposed, Trial};
use crate::catalogue::{Kind, THROW_EXPONENT};
use crate::coverage::{
    Coverage, DRIP_ONLY, Ground, NEAREST, Profile, Reaching, WHILE_MOVING, gaps, own_rate, unreached,
};
use crate::job::Job;
use crate::progress::Progress;
use crate::site::{Motion, Point, SAME, Shape, Wind};
use crate::units::{Flow, Length, Rate};
use std::collections::HashSet;
use std::hash::{DefaultHasher, Hash, Hasher};

/// Spacing over throw that still air bears: up to 55 % of the diameter one way, where the rows stand closer the other.
const STRETCHES: [f64; 3] = [1.0, 1.06, 1.11];

/// Heads on one area at most.
const MOST_HEADS: usize = 2_500;

/// Spacing as a share of the diameter by wind (rows; triangular 5 points more).
pub(super) fn share_of_diameter(wind: Wind) -> f64 {
    match wind {
        Wind::Calm => 0.55,
        Wind::Breeze => 0.50,
        Wind::Windy => 0.45,
    }
}

/// Share of its nominal throw that a kind reaches with what the water here leaves for it.
fn reach_here(job: &Job, kind: Kind) -> f64 {
    let nominal = job.catalogue().class(kind).nominal;
    let left = pressure_at_heads(job).unwrap_or(nominal);
    (left / nominal).clamp(LEAST_PRESSURE, 1.0).powf(THROW_EXPONENT)
}

/// Of nominal; with less a kind is not laid out for long.
const LEAST_PRESSURE: f64 = 0.6;

/// A layout that is being looked at.
struct Candidate<'a> {
    heads: Vec<Trial<'a>>,
    /// The nozzles that it is from: one of [`Search::sets`].
    set: usize,
    throw: f64,
    spacing: Option<f64>,
    pattern: &'static str,
    score: Score,
}

/// Places for heads, laid out for a throw, each with the arc that keeps it on the area.
struct Stands<'g> {
    at: Vec<(Point, Sector)>,
    ground: &'g Ground,
    throw: f64,
    spacing: f64,
    pattern: &'static str,
}

/// One kind of head on one area.
pub(super) struct Search<'a> {
    job: &'a Job,
    area: &'a str,
    shape: &'a Shape,
    field: Field,
    m2: f64,
    /// Metres across the ground.
    width: f64,
    /// Spacing over the diameter of a throw.
    share: f64,
    /// Share of their nominal throw that heads reach with the water here.
    reach: f64,
    /// Wind that lets no spacing be stretched.
    windy: bool,
    fixed: Vec<Trial<'a>>,
    kind: Kind,
    prices: Prices,
    family: Family<'a>,
    /// Its nozzles by the arcs that they match, and last all of them where those throw too far for the ground.
    sets: Vec<Family<'a>>,
    progress: &'a Progress,
    /// Heads that were looked at already.
    seen: HashSet<u64>,
    tried: usize,
    candidates: Vec<Candidate<'a>>,
}

impl<'a> Search<'a> {
    pub fn of(
        job: &'a Job,
        area: &'a str,
        kind: Kind,
        progress: &'a Progress,
        on_truck: bool,
    ) -> Result<Self, LayoutFault> {
        let ground_of = job.site.area(area).ok_or(LayoutFault::NoArea)?;
        let family = Family::of(job.catalogue(), kind, on_truck).ok_or(LayoutFault::NoNozzle)?;
        let field = Field::of(&job.site, area, family.farthest() * 1.1).ok_or(LayoutFault::NoArea)?;
        let ground = field.ground(family.farthest()).ok_or(LayoutFault::NoArea)?;
        if !ground.inside().contains(&true) {
            return Err(LayoutFault::Covered);
        }
        let width = field.width();
        if width < DRIP_ONLY - SAME {
            return Err(LayoutFault::TooNarrow(Length::from_m(width)));
        }
        let fixed = locked(job, area, &field);
        let sets = family.sets();
        Ok(Self {
            job,
            area,
            shape: &ground_of.shape,
            m2: field.pieces.iter().map(Shape::area_m2).sum(),
            width,
            // Head to head at the widest: calm air allows more, and gets less even for it.
            share: share_of_diameter(ground_of.wind).min(0.5) * reach_here(job, kind),
            reach: reach_here(job, kind),
            windy: share_of_diameter(ground_of.wind) < 0.5,
            field,
            fixed,
            kind,
            prices: Prices::of(job, ground_of, kind),
            family,
            sets,
            progress,
            seen: HashSet::new(),
            tried: 0,
            candidates: Vec::new(),
        })
    }

    /// Strips and squares, where they fit.
    pub fn patterns(&mut self, on_truck: bool) {
        let largest = self.family.farthest();
        for (pattern, heads) in strips(&self.field, self.job.catalogue(), self.kind, on_truck) {
            let Some(ground) = self.field.ground(largest) else {
                continue;
            };
            let heads = self.fixed.iter().cloned().chain(heads).collect();
            self.candidate(heads, &ground, 0, largest, None, pattern);
        }
    }

    /// Heads in rows and strewn, for every throw that suits the ground: of nozzles matched to their arcs first, and
    /// of any of the kind where those throw too far.
    pub fn rows(&mut self) -> Result<(), LayoutFault> {
        let throws = self.family.throws();
        // Heads on one edge throw to the other: a throw much over the width lands beside it.
        let usable = |throw: &f64| *throw <= (self.width * 1.25).max(self.width + 0.3);
        let able: Vec<f64> = throws.iter().copied().filter(usable).collect();
        let heads_for = |throw: f64| (self.m2 / (2.0 * throw * self.share).powi(2)) as usize;
        let few = heads_for(able.last().copied().unwrap_or(self.family.farthest()));
        if few > MOST_HEADS {
            return Err(LayoutFault::TooMany(few));
        }
        // On large ground only the longest throws are worth laying out.
        let worthwhile = able.iter().enumerate();
        let worthwhile = worthwhile.filter(|(i, t)| heads_for(**t) <= 60 || able.len() - i <= 2);
        let worthwhile: Vec<f64> = worthwhile.map(|(_, t)| *t).collect();
        self.lay(&worthwhile, 0)?;
        let on_ground = |c: &Candidate<'_>| c.score.overspray < ON_GROUND && c.score.unreached < BARE_AT_MOST;
        if self.sets[0].is_set() && !self.candidates.iter().any(on_ground) {
            self.sets.push(self.family.clone());
            self.lay(&worthwhile, self.sets.len() - 1)?;
        }
        if self.candidates.is_empty() {
            return Err(LayoutFault::TooSmall {
                width: Length::from_m(self.width),
                shortest: Length::from_m(throws.first().copied().unwrap_or(0.0)),
            });
        }
        Ok(())
    }

    /// Lays out for some throws with the sets from one on.
    fn lay(&mut self, throws: &[f64], first: usize) -> Result<(), LayoutFault> {
        let at: Vec<Point> = self.fixed.iter().map(|t| t.at).collect();
        // Still air bears a little more than the throw, which may come out with fewer heads.
        let spacings: &[f64] = match (Profile::of(self.kind), self.windy) {
            (Profile::Shouldered, _) => &[1.0, 1.0 / STRETCHES[1]],
            (_, true) => &STRETCHES[..1],
            (_, false) => &STRETCHES,
        };
        let reach = self.sets[first].reach();
        for throw in throws.iter().copied() {
            let Some(ground) = self.field.ground(throw * reach) else {
                continue;
            };
            for (inside, pattern) in
                [(Inside::Square, "square"), (Inside::Triangular, "triangular"), (Inside::Free, "free")]
            {
                for stretch in spacings {
                    if self.progress.stopped() {
                        return Err(LayoutFault::Stopped);
                    }
                    let spacing = 2.0 * throw * self.share * stretch;
                    let spacing = if inside == Inside::Triangular { spacing * 1.1 } else { spacing };
                    let places = place(&self.field, &ground, spacing, inside, &at);
                    if places.is_empty() || places.len() > MOST_HEADS * 2 {
                        continue;
                    }
                    for throw in throws_at(&self.sets[first], throw, &places) {
                        // Which way a head looks is the same whatever set it is from.
                        let fitter = Fitter::new(&self.family, throw);
                        let stands = places.iter().map(|p| (*p, fitter.arc(&ground, *p))).collect();
                        let stands = Stands { at: stands, ground: &ground, throw, spacing, pattern };
                        for set in first..self.sets.len() {
                            self.stand_at(&stands, set);
                        }
                    }
                }
            }
        }
        Ok(())
    }

    /// Heads of a set at some places, unless they stood there before or too many don't reach each other.
    fn stand_at(&mut self, stands: &Stands<'_>, set: usize) {
        let new = stands.at.iter().filter_map(|s| stand(&self.sets[set], *s, stands.throw));
        let heads: Vec<Trial<'a>> = self.fixed.iter().cloned().chain(new).collect();
        // Another spacing, another pattern and another set of nozzles often come to the same heads.
        if !self.seen.insert(told_by(&heads)) {
            return;
        }
        // Where a layout keeps to its rate already one that is far over it is not worth casting its water.
        let flow = Flow::from_lpm(heads.iter().map(|h| h.flow().lpm()).sum());
        let own = heads.iter().map(|h| (h.nozzle, h.arc));
        let over = |rate: Rate, own: Rate| rate / own.max(Rate::from_mmph(1e-6)) > FAR_OVER;
        let rate = applied(flow, self.m2);
        let fair = |c: &Candidate<'_>| !over(c.score.rate, c.score.own_rate);
        if over(rate, own_rate(self.job.catalogue(), own, rate)) && self.candidates.iter().any(fair) {
            return;
        }
        let on_sheet: Vec<Proposed> = heads.iter().map(|t| on_sheet(t, &self.field)).collect();
        if stretched(self.job, self.shape, &on_sheet, self.reach) <= STRETCHED {
            let spacing = Some(stands.spacing);
            self.candidate(heads, stands.ground, set, stands.throw, spacing, stands.pattern);
        }
    }

    fn candidate(
        &mut self,
        heads: Vec<Trial<'a>>,
        ground: &Ground,
        set: usize,
        throw: f64,
        spacing: Option<f64>,
        pattern: &'static str,
    ) {
        let water = CastWater::new(self.job.catalogue(), ground, heads);
        let score = judge(&water, ground, self.m2, &self.prices);
        self.tried += 1;
        self.candidates.push(Candidate { heads: water.heads, set, throw, spacing, pattern, score });
    }

    /// The best of the candidates, searched on: of those that do what a layout must the cheapest.
    pub fn best(&mut self) -> Result<Proposal, LayoutFault> {
        let mut finished: Vec<(Proposal, Coverage)> = Vec::new();
        let mut missed: Vec<Candidate<'a>> = Vec::new();
        for candidate in worth_searching(std::mem::take(&mut self.candidates)) {
            for c in self.searched(candidate, 1.0)? {
                let Some(p) = self.finished(&c) else { continue };
                let off = p.0.score.overspray - c.score.overspray;
                if off > MISSED && c.spacing.is_some() && c.heads.len() <= MOST_POLISHED {
                    missed.push(c);
                }
                finished.push(p);
            }
        }
        // On cells as wide as those a head on the edge may water the pavement behind it and nobody sees: where that
        // happened to the best they are looked at again more closely.
        missed.sort_by(|a, b| a.score.weighed().total_cmp(&b.score.weighed()));
        missed.truncate(POLISHED);
        for candidate in missed {
            let closely = self.searched(candidate, CLOSELY)?;
            finished.extend(closely.iter().filter_map(|c| self.finished(c)));
        }
        finished.sort_by(|a, b| a.0.score.weighed().total_cmp(&b.0.score.weighed()));
        self.as_audited(finished)
    }

    /// Of layouts, the cheapest first, the one that comes first when it is held against what an audit should find and
    /// against the job's own checks; of some that cost the same, the one with the fewest heads.
    fn as_audited(&self, finished: Vec<(Proposal, Coverage)>) -> Result<Proposal, LayoutFault> {
        let mut all: Vec<Proposal> = Vec::new();
        let mut least = f64::MAX;
        for (mut p, covered) in finished {
            // An audit may make a layout cheaper than it was thought to be, but not by so much.
            if p.score.cost * CHEAPER > least {
                continue;
            }
            if self.progress.stopped() {
                return Err(LayoutFault::Stopped);
            }
            p.expected = audit(self.job, self.area, &p.heads, WHILE_MOVING);
            if let Some(expected) = p.expected {
                p.score = audited(self.job, &p, &covered, &expected, &self.prices);
            }
            least = least.min(p.score.weighed());
            all.push(p);
        }
        all.retain(|p| p.score.weighed() < least * THE_SAME);
        // The first of those with as many heads is the one that was cheapest.
        all.into_iter().min_by_key(|p| p.heads.len()).ok_or(LayoutFault::NoArea)
    }

    /// A candidate as it was placed, and searched on, on cells so many times as long as usual.
    fn searched(&self, candidate: Candidate<'a>, cell: f64) -> Result<Vec<Candidate<'a>>, LayoutFault> {
        let set = &self.sets[candidate.set];
        let reach = candidate.throw * set.reach();
        let Some(ground) = self.field.ground_to(reach, cell) else {
            return Ok(Vec::new());
        };
        if candidate.spacing.is_none() {
            return Ok(vec![candidate]);
        }
        let mut water = CastWater::new(self.job.catalogue(), &ground, candidate.heads.clone());
        let strewn = candidate.pattern == "free";
        let stopped = || self.progress.stopped();
        water.improve(&self.field, set, candidate.throw, strewn, &stopped);
        if self.progress.stopped() {
            return Err(LayoutFault::Stopped);
        }
        let score = judge(&water, &ground, self.m2, &self.prices);
        let heads = water.heads;
        let searched = Candidate { heads, score, ..candidate };
        Ok(vec![candidate, searched])
    }

    /// A candidate as it will be shown, looked at on other cells than those it was searched on.
    fn finished(&self, candidate: &Candidate<'a>) -> Option<(Proposal, Coverage)> {
        let new = candidate.heads[self.fixed.len()..].iter();
        let heads: Vec<Proposed> = new.map(|t| on_sheet(t, &self.field)).collect();
        let (score, coverage) = measure(self.job, self.area, &heads)?;
        let apart = farthest(&heads);
        let proposal = Proposal {
            area: self.area.to_owned(),
            kind: self.kind,
            heads,
            score,
            expected: None,
            unreached: unreached(&coverage),
            tried: self.tried,
            spacing: candidate.spacing.map(|_| (candidate.throw, apart)),
            pattern: candidate.pattern,
        };
        Some((proposal, coverage))
    }
}

/// Water off the ground that the search may miss before a layout is looked at more closely; how many are, of how many
/// heads at most, and how closely.
const MISSED: f64 = 0.01;
const POLISHED: usize = 2;
const MOST_POLISHED: usize = 150;
const CLOSELY: f64 = 0.5;

/// A rate over the nozzles' own from which a layout is not looked at if there are others.
const FAR_OVER: f64 = 1.3;

/// Layouts whose prices differ by no more cost the same.
const THE_SAME: f64 = 1.005;
/// What an audit may take off a price that was reckoned with the ideal evenness.
const CHEAPER: f64 = 0.93;

/// Share of the water off the area under which a layout keeps to its ground.
const ON_GROUND: f64 = 0.05;

/// The share of the ground that may stay dry before another set of nozzles is looked at.
const BARE_AT_MOST: f64 = 0.02;

/// Share of the heads that may stand too far from a neighbour before a layout is not worth a look; on odd
/// ground some always do.
const STRETCHED: f64 = 0.34;

/// The farthest that a head stands from the next one, metres.
fn farthest(heads: &[Proposed]) -> f64 {
    let near = |i: usize| {
        let others = heads.iter().enumerate().filter(|(j, _)| *j != i);
        others.map(|(_, h)| h.at.distance(heads[i].at)).reduce(f64::min)
    };
    (0..heads.len()).filter_map(near).fold(0.0, f64::max)
}

/// Tells heads from others: by where they stand to the millimetre, by nozzle, arc and throw.
fn told_by(heads: &[Trial<'_>]) -> u64 {
    let mm = |m: f64| (m * 1000.0).round() as i64;
    let mut hasher = DefaultHasher::new();
    for h in heads {
        (mm(h.at.x), mm(h.at.y), h.arc, mm(h.facing), mm(h.throw_length()), &h.nozzle.id).hash(&mut hasher);
    }
    hasher.finish()
}

/// Throws to try at places that were laid out for a throw.
fn throws_at(set: &Family<'_>, throw: f64, places: &[Point]) -> Vec<f64> {
    if set.is_set() {
        // A stream lies even over most of its throw and thins out fast: it has to reach past its neighbour. How
        // much water that takes is the set's affair, and not the throw's.
        return BEYOND.map(|k| k * throw).to_vec();
    }
    // Evened out, the heads stand closer than was asked: the nozzle whose throw equals that spacing takes less water
    // for the same evenness.
    let reach = |throw: &f64| !out_of_reach(places, *throw);
    set.closer(throw).into_iter().filter(reach).chain([throw]).collect()
}

/// Throws over the spacing, for streams matched by their arc: 0.8 of the throw is the evenest.
const BEYOND: [f64; 3] = [1.0, 1.12, 1.25];

/// So many places stand too far from the next for a throw that no layout of it is worth a look.
fn out_of_reach(places: &[Point], throw: f64) -> bool {
    let most = (throw * NEAREST).powi(2);
    let alone = |(i, p): &(usize, &Point)| {
        let near = |(j, q): (usize, &Point)| j != *i && (*q - **p).dot(*q - **p) <= most;
        !places.iter().enumerate().any(near)
    };
    let alone = places.iter().enumerate().filter(alone).count();
    alone as f64 > STRETCHED * places.len() as f64
}

/// Share of proposed heads that do not reach a neighbour.
fn stretched(job: &Job, shape: &Shape, heads: &[Proposed], reach: f64) -> f64 {
    let reaching: Vec<Reaching> = heads
        .iter()
        .filter_map(|h| {
            let nozzle = job.catalogue().nozzle(&h.nozzle)?;
            (nozzle.pattern.is_none()).then_some(())?;
            let throw = reach * h.radius.or(nozzle.radius)?.m();
            Some(Reaching { at: h.at, throw, arc: h.arc, facing: h.facing })
        })
        .collect();
    gaps(shape, &reaching).len() as f64 / reaching.len().max(1) as f64
}

/// Throws so near each other, as a share, are about the same; and so many of those are searched on.
const ALIKE: f64 = 0.08;
const MOST_ALIKE: usize = 2;

/// The best few of the candidates, on large ground fewer: by price, and some by evenness alone; of as many heads that
/// throw about as far no more than two each, which would only find each other again.
fn worth_searching(candidates: Vec<Candidate<'_>>) -> Vec<Candidate<'_>> {
    let most = candidates.iter().map(|c| c.heads.len()).min().unwrap_or(0);
    let (by_price, by_evenness) = match most {
        0..=30 => (8, 3),
        31..=200 => (5, 2),
        _ => (2, 1),
    };
    let even = |c: &Candidate<'_>| c.score.du - c.score.overspray;
    let price = |c: &Candidate<'_>| -c.score.weighed();
    // Patterns are few, and not searched any further.
    let (mut kept, others): (Vec<_>, Vec<_>) = candidates.into_iter().partition(|c| c.spacing.is_none());
    let mut left: Vec<Option<Candidate<'_>>> = others.into_iter().map(Some).collect();
    type Key<'k, 'c> = &'k dyn Fn(&Candidate<'c>) -> f64;
    let keys: [(Key<'_, '_>, usize); 2] = [(&price, by_price), (&even, by_evenness)];
    for (key, keep) in keys {
        let mut order: Vec<usize> = (0..left.len()).filter(|i| left[*i].is_some()).collect();
        let value = |i: &usize| left[*i].as_ref().map_or(f64::MIN, key);
        order.sort_by(|a, b| value(b).total_cmp(&value(a)));
        let (first, mut found) = (kept.len(), 0);
        for i in order {
            let Some(c) = left[i].take() else { continue };
            let near = |k: &&Candidate<'_>| {
                k.set == c.set
                    && (k.throw - c.throw).abs() < ALIKE * c.throw
                    && k.heads.len() == c.heads.len()
            };
            let alike = kept[first..].iter().filter(near).count();
            if found < keep && alike < MOST_ALIKE {
                found += 1;
                kept.push(c);
            } else {
                left[i] = Some(c);
            }
        }
    }
    kept
}

fn on_sheet(trial: &Trial<'_>, field: &Field) -> Proposed {
    let p = trial.proposed();
    let facing = field.frame.back_direction(p.facing).rem_euclid(360.0);
    // Tenths of a degree and half millimetres are what is set and shown.
    Proposed { at: rounded(field.frame.back(p.at)), facing: (facing * 10.0).round() / 10.0 % 360.0, ..p }
}

fn rounded(p: Point) -> Point {
    Point::new((p.x * 2000.0).round() / 2000.0, (p.y * 2000.0).round() / 2000.0)
}

/// A head of a family at a place, looking a way.
fn stand<'a>(family: &Family<'a>, (at, (arc, facing)): (Point, Sector), throw: f64) -> Option<Trial<'a>> {
    let (nozzle, radius) = family.nozzle(arc, throw)?;
    Some(Trial { at, facing, arc, nozzle, radius, fixed: false })
}

/// Locked heads of the area, in the field's frame.
fn locked<'a>(job: &'a Job, area: &str, field: &Field) -> Vec<Trial<'a>> {
    let of_area = job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    of_area
        .flat_map(|g| {
            g.drawn.iter().filter(|h| h.locked).filter_map(|h| Some((job.catalogue().nozzle(&g.nozzle)?, h)))
        })
        .map(|(nozzle, h)| {
            let into = |p: Point| field.frame.motions().iter().fold(p, |p, m: &Motion| m.of(p));
            let facing = field.frame.motions().iter().fold(h.facing, |d, m| m.of_direction(d));
            Trial { at: into(h.at), facing, arc: h.arc, nozzle, radius: h.radius, fixed: true }
        })
        .collect()
}
