use super::Progress;
use super::family::Family;
use super::field::Field;
use super::fit;
use super::improve::CastWater;
use super::place::{Inside, place};
use super::reach::{DRIP_ONLY, Unreached, unreached};
use super::score::{Score, all_heads, judge, measure, rate_cost};
use super::spacing::{NEAREST, Reaching, gaps};
use super::strips::strips;
use super::trial::{Proposed, Trial};
use crate::catalogue::Kind;
use crate::coverage::{Expected, Ground, Profile, REPETITIONS, Source, expected};
use crate::job::Job;
use crate::site::{Motion, Point, SAME, Shape, Wind};
use crate::units::Length;

/// Heads for an area.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// Id of the area.
    pub area: String,
    /// Kind of head.
    pub kind: Kind,
    /// The heads, locked ones not among them.
    pub heads: Vec<Proposed>,
    /// What they do, together with locked ones.
    pub score: Score,
    /// The evenness that an audit would find, at nominal pressure.
    pub expected: Option<Expected>,
    /// What gets no water.
    pub unreached: Vec<Unreached>,
    /// Layouts that were tried.
    pub tried: usize,
    /// Throw that was laid out for, and the farthest that a head stands from the next, metres; none for
    /// patterns.
    pub spacing: Option<(f64, f64)>,
    /// How the inside is filled.
    pub pattern: &'static str,
}

/// Why there is no proposal.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LayoutFault {
    /// Not an area, or all of it lies under something else.
    #[error("there is no such ground to be watered")]
    NoArea,
    /// Too narrow for anything that throws.
    #[error("too narrow for anything that throws")]
    TooNarrow(Length),
    /// The kind throws farther than the ground is wide.
    #[error("the shortest throw of this kind is longer than the ground is wide")]
    TooSmall {
        /// Of the ground.
        width: Length,
        /// Of this kind.
        shortest: Length,
    },
    /// No nozzle of this kind throws.
    #[error("the catalogue has no nozzle of this kind that throws")]
    NoNozzle,
    /// More heads than one area may have.
    #[error("that would be about {0} heads: part the area first")]
    TooMany(usize),
    /// Somebody asked for it.
    #[error("stopped")]
    Stopped,
}

/// Spacing over throw that still air bears, short of the 1.10 of 55 % of the diameter.
const STRETCH: f64 = 1.06;

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

struct Candidate<'a> {
    heads: Vec<Trial<'a>>,
    throw: f64,
    spacing: Option<f64>,
    pattern: &'static str,
    score: Score,
}

/// Heads of one kind for an area. Locked heads stay and count. Deterministic.
///
/// Throws and spacings of the kind's nozzles are placed (corners, edges, inside), the nozzle whose throw
/// equals the spacing that came of it is tried too, the best are searched on, and of those the one is taken
/// that is worth most: even, on its ground, at the kind's own rate, each head in reach of its neighbours.
/// Ground from 2 ft wide, at most 2,500 heads.
///
/// # Errors
/// [`LayoutFault`], in words for the person who asked.
///
/// # Source
/// Head to head as practised; search by single changes (first improvement); Lloyd (1982) for heads strewn
/// inside.
///
/// # Example
/// 36 x 48 ft with sprays: 12 heads, about 29 gpm and 1.6 in/h, where 15 ft nozzles at 12 ft would take 45.6
/// gpm for the same evenness (a test holds it).
pub fn propose(job: &Job, area: &str, kind: Kind, progress: &Progress) -> Result<Proposal, LayoutFault> {
    // What is on the truck comes first; where it does not suit the ground, all of the kind.
    let on_truck = job
        .catalogue()
        .nozzles
        .iter()
        .any(|n| n.kind == kind && n.favourite);
    match propose_of(job, area, kind, progress, on_truck) {
        Err(LayoutFault::TooSmall { .. } | LayoutFault::NoNozzle | LayoutFault::TooMany(_)) if on_truck => {
            propose_of(job, area, kind, progress, false)
        }
        done => done,
    }
}

fn propose_of(
    job: &Job,
    area: &str,
    kind: Kind,
    progress: &Progress,
    on_truck: bool,
) -> Result<Proposal, LayoutFault> {
    let ground_of = job.site.area(area).ok_or(LayoutFault::NoArea)?;
    let family = Family::of(job.catalogue(), kind, on_truck).ok_or(LayoutFault::NoNozzle)?;
    let throws = family.throws();
    let largest = throws.last().copied().unwrap_or(0.0);
    let field = Field::of(&job.site, area, largest * 1.1).ok_or(LayoutFault::NoArea)?;
    let m2: f64 = field.pieces.iter().map(Shape::area_m2).sum();
    let width = field.width();
    if width < DRIP_ONLY - SAME {
        return Err(LayoutFault::TooNarrow(Length::from_m(width)));
    }
    // Heads on one edge throw to the other: a throw much over the width lands beside it.
    let usable = |throw: f64| throw <= (width * 1.25).max(width + 0.3);
    let fixed: Vec<Trial<'_>> = locked(job, area, &field);
    let at: Vec<Point> = fixed.iter().map(|t| t.at).collect();
    let stopped = || progress.stopped();
    let mut candidates: Vec<Candidate<'_>> = Vec::new();
    let mut tried = 0;
    let mut seen: Vec<(Vec<Point>, f64)> = Vec::new();
    for (pattern, heads) in strips(&field, job.catalogue(), kind, on_truck) {
        let Some(ground) = field.ground(largest) else {
            continue;
        };
        let heads: Vec<Trial<'_>> = fixed.iter().cloned().chain(heads).collect();
        let score = judge(
            &CastWater::new(job.catalogue(), &ground, heads.clone()),
            &ground,
            m2,
        );
        tried += 1;
        candidates.push(Candidate {
            heads,
            throw: largest,
            spacing: None,
            pattern,
            score,
        });
    }
    // Head to head at the widest: calm air allows more, and gets less even for it.
    let share = share_of_diameter(ground_of.wind).min(0.5);
    let able: Vec<f64> = throws.iter().copied().filter(|t| usable(*t)).collect();
    let heads_for = |throw: f64| (m2 / (2.0 * throw * share).powi(2)) as usize;
    let few = heads_for(able.last().copied().unwrap_or(largest));
    if few > MOST_HEADS {
        return Err(LayoutFault::TooMany(few));
    }
    // On large ground only the longest throws are worth laying out.
    let worthwhile = able
        .iter()
        .copied()
        .enumerate()
        .filter(|(i, t)| heads_for(*t) <= 60 || able.len() - i <= 2);
    for (_, throw) in worthwhile {
        let Some(ground) = field.ground(throw) else {
            continue;
        };
        // Still air bears a little more than the throw, which may come out with fewer heads.
        let shouldered = Profile::of(kind) == Profile::Shouldered;
        let spacings: &[f64] = match (shouldered, share < 0.5) {
            (true, _) => &[1.0, 1.0 / STRETCH],
            (false, true) => &[1.0],
            (false, false) => &[1.0, STRETCH],
        };
        for (inside, pattern) in [
            (Inside::Square, "square"),
            (Inside::Triangular, "triangular"),
            (Inside::Free, "free"),
        ] {
            for stretch in spacings {
                if stopped() {
                    return Err(LayoutFault::Stopped);
                }
                let spacing = 2.0 * throw * share * stretch;
                let spacing = if inside == Inside::Triangular {
                    spacing * 1.1
                } else {
                    spacing
                };
                let places = place(&field, &ground, spacing, inside, &at);
                if places.is_empty() || places.len() > MOST_HEADS * 2 {
                    continue;
                }
                // Evened out, the heads stand closer than was asked: the nozzle whose throw equals that
                // spacing takes less water for the same evenness.
                let reach = |throw: &f64| !out_of_reach(&places, *throw);
                for throw in family.closer(throw).into_iter().filter(reach).chain([throw]) {
                    // Another spacing and another pattern often come to the same heads.
                    if seen.iter().any(|s| s.1 == throw && alike(&s.0, &places)) {
                        continue;
                    }
                    seen.push((places.clone(), throw));
                    let new = places.iter().filter_map(|p| set(&ground, &family, *p, throw));
                    let heads: Vec<Trial<'_>> = fixed.iter().cloned().chain(new).collect();
                    let on_sheet: Vec<Proposed> = heads.iter().map(|t| on_sheet(t, &field)).collect();
                    if stretched(job, &ground_of.shape, &on_sheet) > STRETCHED {
                        continue;
                    }
                    let score = judge(
                        &CastWater::new(job.catalogue(), &ground, heads.clone()),
                        &ground,
                        m2,
                    );
                    tried += 1;
                    candidates.push(Candidate {
                        heads,
                        throw,
                        spacing: Some(spacing),
                        pattern,
                        score,
                    });
                }
            }
        }
    }
    if candidates.is_empty() {
        return Err(LayoutFault::TooSmall {
            width: Length::from_m(width),
            shortest: Length::from_m(throws.first().copied().unwrap_or(0.0)),
        });
    }
    let mut finished: Vec<Proposal> = Vec::new();
    for candidate in worth_searching(candidates) {
        let Some(ground) = field.ground(candidate.throw) else {
            continue;
        };
        let mut water = CastWater::new(job.catalogue(), &ground, candidate.heads);
        let as_placed = water.heads.clone();
        if candidate.spacing.is_some() {
            water.improve(
                &field,
                &family,
                candidate.throw,
                candidate.pattern == "free",
                &stopped,
            );
        }
        if stopped() {
            return Err(LayoutFault::Stopped);
        }
        for trials in [as_placed, water.heads] {
            let heads: Vec<Proposed> = trials[fixed.len()..]
                .iter()
                .map(|t| on_sheet(t, &field))
                .collect();
            // Looked at as it will be shown, not on the cells it was searched on.
            let Some((score, coverage)) = measure(job, area, &heads) else {
                continue;
            };
            let apart = farthest(&heads);
            finished.push(Proposal {
                area: area.to_owned(),
                kind,
                heads,
                score,
                expected: None,
                unreached: unreached(&coverage),
                tried,
                spacing: candidate.spacing.map(|_| (candidate.throw, apart)),
                pattern: candidate.pattern,
            });
        }
    }
    // Less water is no bargain where it lies much less evenly than it might.
    let evenest = finished.iter().map(|p| p.score.du).fold(0.0, f64::max);
    let evenest = evenest.min(EVEN_ENOUGH);
    let worth = |p: &Proposal| {
        // Strips and squares serve where circles would take many more heads.
        let shortfall = p
            .spacing
            .map_or(0.0, |_| (evenest - EVENNESS - p.score.du).max(0.0));
        p.score.worth - UNEVEN * shortfall - GAPS * stretched(job, &ground_of.shape, &p.heads)
    };
    let best = finished
        .into_iter()
        .reduce(|a, b| if worth(&b) > worth(&a) + 1e-9 { b } else { a });
    let mut best = best.ok_or(LayoutFault::NoArea)?;
    best.expected = audit(job, area, &best.heads);
    Ok(best)
}

/// The evenness that an audit of proposed heads would find, with the locked ones of the area, at nominal.
fn audit(job: &Job, area: &str, heads: &[Proposed]) -> Option<Expected> {
    let set = all_heads(job, area, heads);
    let each = set.iter().map(|(nozzle, head)| Source {
        head,
        nozzle,
        class: job.catalogue().class(nozzle.kind),
        solved: None,
    });
    let sources: Vec<Source<'_>> = each.collect();
    expected(job, area, &sources, REPETITIONS)
}

/// Share of the heads that may stand too far from a neighbour before a layout is not worth a look; on odd
/// ground some always do.
const STRETCHED: f64 = 0.34;

/// What it weighs if every head stood too far from its neighbours: never stretch beyond.
const GAPS: f64 = 0.35;

/// The farthest that a head stands from the next one, metres.
fn farthest(heads: &[Proposed]) -> f64 {
    let near = |i: usize| {
        let others = heads.iter().enumerate().filter(|(j, _)| *j != i);
        others.map(|(_, h)| h.at.distance(heads[i].at)).reduce(f64::min)
    };
    (0..heads.len()).filter_map(near).fold(0.0, f64::max)
}

/// The same places, to the millimetre.
fn alike(some: &[Point], others: &[Point]) -> bool {
    some.len() == others.len() && some.iter().zip(others).all(|(a, b)| a.distance(*b) < 0.001)
}

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
fn stretched(job: &Job, shape: &Shape, heads: &[Proposed]) -> f64 {
    let reaching: Vec<Reaching> = heads
        .iter()
        .filter_map(|h| {
            let nozzle = job.catalogue().nozzle(&h.nozzle)?;
            (nozzle.pattern.is_none()).then_some(())?;
            Some(Reaching {
                at: h.at,
                throw: h.radius.or(nozzle.radius)?.m(),
                arc: h.arc,
                facing: h.facing,
            })
        })
        .collect();
    gaps(shape, &reaching).len() as f64 / reaching.len().max(1) as f64
}

/// DU that may be given up for other virtues, and what more weighs.
const EVENNESS: f64 = 0.02;
const UNEVEN: f64 = 2.5;
/// Any head-to-head layout is as even as that; more is no reason to set more heads.
const EVEN_ENOUGH: f64 = 0.94;

/// Throws so near each other, as a share, are about the same; and so many of those are searched on.
const ALIKE: f64 = 0.08;
const MOST_ALIKE: usize = 2;

/// The best few of the candidates, on large ground fewer: by all that counts, and some by evenness alone;
/// of as many heads that throw about as far no more than two each, which would only find each other again.
fn worth_searching(candidates: Vec<Candidate<'_>>) -> Vec<Candidate<'_>> {
    let most = candidates.iter().map(|c| c.heads.len()).min().unwrap_or(0);
    let (by_worth, by_evenness) = if most > 200 { (2, 1) } else { (6, 3) };
    let even = |c: &Candidate<'_>| c.score.worth + rate_cost(c.score.rate, c.score.own_rate);
    let worth = |c: &Candidate<'_>| c.score.worth;
    // Patterns are few, and not searched any further.
    let (mut kept, others): (Vec<_>, Vec<_>) = candidates.into_iter().partition(|c| c.spacing.is_none());
    let mut left: Vec<Option<Candidate<'_>>> = others.into_iter().map(Some).collect();
    type Key<'k, 'c> = &'k dyn Fn(&Candidate<'c>) -> f64;
    let keys: [(Key<'_, '_>, usize); 2] = [(&worth, by_worth), (&even, by_evenness)];
    for (key, keep) in keys {
        let mut order: Vec<usize> = (0..left.len()).filter(|i| left[*i].is_some()).collect();
        let value = |i: &usize| left[*i].as_ref().map_or(f64::MIN, key);
        order.sort_by(|a, b| value(b).total_cmp(&value(a)));
        let (first, mut found) = (kept.len(), 0);
        for i in order {
            let Some(c) = left[i].take() else { continue };
            let near = |k: &&Candidate<'_>| {
                (k.throw - c.throw).abs() < ALIKE * c.throw && k.heads.len() == c.heads.len()
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
    Proposed {
        at: rounded(field.frame.back(p.at)),
        facing: (facing * 10.0).round() / 10.0 % 360.0,
        ..p
    }
}

fn rounded(p: Point) -> Point {
    Point::new((p.x * 2000.0).round() / 2000.0, (p.y * 2000.0).round() / 2000.0)
}

/// A head at a place, with the arc that keeps it on the area.
fn set<'a>(ground: &Ground, family: &Family<'a>, at: Point, throw: f64) -> Option<Trial<'a>> {
    let (arc, facing) = fit::arc(ground, at, throw, Profile::of(family.kind), family);
    let (nozzle, radius) = family.nozzle(arc, throw)?;
    Some(Trial {
        at,
        facing,
        arc,
        nozzle,
        radius,
        fixed: false,
    })
}

/// Locked heads of the area, in the field's frame.
fn locked<'a>(job: &'a Job, area: &str, field: &Field) -> Vec<Trial<'a>> {
    let of_area = job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    of_area
        .flat_map(|g| {
            g.drawn
                .iter()
                .filter(|h| h.locked)
                .filter_map(|h| Some((job.catalogue().nozzle(&g.nozzle)?, h)))
        })
        .map(|(nozzle, h)| {
            let into = |p: Point| field.frame.motions().iter().fold(p, |p, m: &Motion| m.of(p));
            let facing = field
                .frame
                .motions()
                .iter()
                .fold(h.facing, |d, m| m.of_direction(d));
            Trial {
                at: into(h.at),
                facing,
                arc: h.arc,
                nozzle,
                radius: h.radius,
                fixed: true,
            }
        })
        .collect()
}
