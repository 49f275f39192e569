use super::Progress;
use super::family::Family;
use super::field::{Field, harm};
use super::fit;
use super::improve::CastWater;
use super::place::{Inside, place};
use super::reach::{DRIP_ONLY, Unreached, clearance, unreached};
use super::strips::strips;
use super::trial::{Proposed, Trial};
use crate::catalogue::Kind;
use crate::coverage::{Coverage, Ground, Profile, Throw, Under, coverage, uniformity};
use crate::job::Job;
use crate::plan::DrawnHead;
use crate::site::{Motion, Point, Wind};
use crate::units::{Flow, Length, Rate};

/// What heads do on an area, all at nominal pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Score {
    /// Distribution uniformity of the lower quarter.
    pub du: f64,
    /// Christiansen's coefficient.
    pub cu: f64,
    /// Scheduling coefficient.
    pub sc: f64,
    /// Share of the water on what is kept dry.
    pub on_dry: f64,
    /// Share of the water off the area.
    pub overspray: f64,
    /// Share of the area that gets less than a tenth of the mean.
    pub unreached: f64,
    /// How many heads.
    pub heads: usize,
    /// Their flow.
    pub flow: Flow,
    /// Mean rate on the area.
    pub rate: Rate,
    /// One figure to choose by: higher is better.
    pub worth: f64,
}

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
    /// What gets no water.
    pub unreached: Vec<Unreached>,
    /// Layouts that were tried.
    pub tried: usize,
    /// Throw and spacing that were laid out, metres; none for patterns.
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
    worth: f64,
}

/// Heads of one kind for an area. Locked heads stay and count.
///
/// # Errors
/// [`LayoutFault`], in words for the person who asked.
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
    let m2: f64 = field.pieces.iter().map(crate::site::Shape::area_m2).sum();
    let width = width(&field)?;
    if width < DRIP_ONLY * 0.97 {
        return Err(LayoutFault::TooNarrow(Length::from_m(width)));
    }
    // Heads on one edge throw to the other: a throw much over the width lands beside it.
    let usable = |throw: f64| throw <= (width * 1.25).max(width + 0.3);
    let fixed: Vec<Trial<'_>> = locked(job, area, &field);
    let at: Vec<Point> = fixed.iter().map(|t| t.at).collect();
    let stopped = || progress.stopped();
    let mut candidates: Vec<Candidate<'_>> = Vec::new();
    let mut tried = 0;
    for (pattern, heads) in strips(&field, job.catalogue(), kind, on_truck) {
        let Some(ground) = field.ground(largest) else {
            continue;
        };
        let heads: Vec<Trial<'_>> = fixed.iter().cloned().chain(heads).collect();
        let worth = judge(
            &CastWater::new(job.catalogue(), &ground, heads.clone()),
            &ground,
            m2,
        )
        .worth;
        tried += 1;
        candidates.push(Candidate {
            heads,
            throw: largest,
            spacing: None,
            pattern,
            worth,
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
        let spacing = 2.0 * throw * share;
        for (inside, pattern) in [
            (Inside::Square, "square"),
            (Inside::Triangular, "triangular"),
            (Inside::Free, "free"),
        ] {
            if stopped() {
                return Err(LayoutFault::Stopped);
            }
            let spacing = if inside == Inside::Triangular {
                spacing * 1.1
            } else {
                spacing
            };
            let places = place(&field, &ground, spacing, inside, &at);
            if places.is_empty() || places.len() > MOST_HEADS * 2 {
                continue;
            }
            let heads: Vec<Trial<'_>> = fixed
                .iter()
                .cloned()
                .chain(places.into_iter().filter_map(|p| set(&ground, &family, p, throw)))
                .collect();
            let worth = judge(
                &CastWater::new(job.catalogue(), &ground, heads.clone()),
                &ground,
                m2,
            )
            .worth;
            tried += 1;
            candidates.push(Candidate {
                heads,
                throw,
                spacing: Some(spacing),
                pattern,
                worth,
            });
        }
    }
    if candidates.is_empty() {
        return Err(LayoutFault::TooSmall {
            width: Length::from_m(width),
            shortest: Length::from_m(throws.first().copied().unwrap_or(0.0)),
        });
    }
    candidates.sort_by(|a, b| b.worth.total_cmp(&a.worth));
    // The best few are searched on; where the ground is large, fewer.
    let keep = if candidates[0].heads.len() > 200 { 2 } else { 4 };
    let mut best: Option<Proposal> = None;
    for candidate in candidates.into_iter().take(keep) {
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
            if best.as_ref().is_none_or(|b| score.worth > b.score.worth + 1e-9) {
                let spacing = candidate.spacing.map(|s| (candidate.throw, s));
                best = Some(Proposal {
                    area: area.to_owned(),
                    kind,
                    heads,
                    score,
                    unreached: unreached(&coverage),
                    tried,
                    spacing,
                    pattern: candidate.pattern,
                });
            }
        }
    }
    best.ok_or(LayoutFault::NoArea)
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

/// Width of the ground at its widest.
pub(super) fn width(field: &Field) -> Result<f64, LayoutFault> {
    let ground = field.ground(2.0).ok_or(LayoutFault::NoArea)?;
    let clear = clearance(&ground.grid, &ground.inside());
    Ok(2.0 * f64::from(clear.iter().copied().fold(0.0f32, f32::max)) + ground.grid.cell * 0.5)
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

/// What heads do on the cells that they were searched on.
fn judge(water: &CastWater<'_, '_>, ground: &Ground, m2: f64) -> Score {
    let inside = ground.inside();
    let k = (60.0 / ground.grid.cell_m2()) as f32;
    let rate: Vec<f32> = water.lpm.iter().map(|q| q * k).collect();
    let flow: f64 = water
        .heads
        .iter()
        .map(|h| h.nozzle.flow_for_arc(h.arc).lpm())
        .sum();
    let share = |of: &dyn Fn(Under) -> bool| {
        ground
            .under
            .iter()
            .zip(&water.lpm)
            .filter(|(u, _)| of(**u))
            .map(|(_, q)| f64::from(*q))
            .sum::<f64>()
            / flow.max(1e-9)
    };
    let harmed = ground
        .under
        .iter()
        .zip(&water.lpm)
        .map(|(u, q)| harm(*u) * f64::from(*q))
        .sum::<f64>()
        / flow.max(1e-9);
    let known = uniformity(&ground.grid, &inside, &rate);
    let (mean, du, cu, sc) = known.map_or((0.0, 0.0, 0.0, f64::INFINITY), |u| (u.mean, u.du, u.cu, u.sc));
    let dry = inside
        .iter()
        .zip(&rate)
        .filter(|(i, r)| **i && f64::from(**r) < 0.1 * mean)
        .count() as f64
        / inside.iter().filter(|i| **i).count().max(1) as f64;
    score(
        du,
        cu,
        sc,
        (
            share(&|u| matches!(u, Under::Dry(_))),
            1.0 - share(&|u| u == Under::Area),
            harmed,
        ),
        dry,
        water.heads.len(),
        Flow::from_lpm(flow),
        Rate::from_mmph(mean),
        m2,
    )
}

#[allow(clippy::too_many_arguments, reason = "one place where the figures meet")]
fn score(
    du: f64,
    cu: f64,
    sc: f64,
    (on_dry, overspray, harmed): (f64, f64, f64),
    unreached: f64,
    heads: usize,
    flow: Flow,
    rate: Rate,
    m2: f64,
) -> Score {
    // Evenness counts most, then water that harms, then what each head costs to set and keep: about
    // a hundredth for every two heads on 100 m2.
    let worth = du
        - 0.3 * (sc.min(10.0) - 1.0)
        - 0.45 * harmed
        - 5.0 * unreached
        - 0.02 * heads as f64 * 25.0 / m2.max(25.0);
    Score {
        du,
        cu,
        sc,
        on_dry: on_dry.clamp(0.0, 1.0),
        overspray: overspray.clamp(0.0, 1.0),
        unreached,
        heads,
        flow,
        rate,
        worth,
    }
}

/// What heads do on an area of a plan, with its locked ones, all at nominal pressure.
pub fn measure(job: &Job, area: &str, heads: &[Proposed]) -> Option<(Score, Coverage)> {
    let locked = job
        .groups
        .iter()
        .filter(|g| g.area.as_deref() == Some(area))
        .flat_map(|g| {
            g.drawn
                .iter()
                .filter(|h| h.locked)
                .map(|h| (g.nozzle.as_str(), h.clone()))
        });
    let new = heads.iter().map(|p| {
        (
            p.nozzle.as_str(),
            DrawnHead {
                id: String::new(),
                at: p.at,
                arc: p.arc,
                facing: p.facing,
                radius: p.radius,
                valve: None,
                locked: false,
            },
        )
    });
    let throws: Vec<Throw> = locked
        .chain(new)
        .filter_map(|(nozzle, head)| {
            let nozzle = job.catalogue().nozzle(nozzle)?;
            let kind = job.catalogue().class(nozzle.kind);
            Some(Throw::of(
                nozzle,
                kind,
                &head,
                kind.nominal,
                nozzle.flow_for_arc(head.arc),
            ))
        })
        .collect();
    let c = coverage(job, area, &throws, None)?;
    let (du, cu, sc, mean) = c
        .uniformity
        .map_or((0.0, 0.0, f64::INFINITY, 0.0), |u| (u.du, u.cu, u.sc, u.mean));
    let harmed = c.on_dry() * 3.0 + (c.overspray() - c.on_dry()).max(0.0) * 0.4;
    Some((
        score(
            du,
            cu,
            sc,
            (c.on_dry(), c.overspray(), harmed),
            c.unreached,
            throws.len(),
            c.flow,
            Rate::from_mmph(mean),
            c.area_m2(),
        ),
        c,
    ))
}
