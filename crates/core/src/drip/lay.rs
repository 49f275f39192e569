use super::fed::RingTooTight;
use super::grid::grid;
use super::ground::{RowGround, turned};
use super::laid::{Laid, Stuff};
use super::plants::plants;
use super::rows::{Span, columns, cut, lots, lots_by_column, spans};
use crate::catalogue::{Catalogue, Kind, Nozzle, PipeDuty, PipeId};
use crate::job::Job;
use crate::plan::{DripLaying, HeadGroup, RowEnds, RowLaying};
use crate::site::{Point, height_at};
use crate::units::{Flow, Length};

/// Emitters of one group at most.
const MOST_EMITTERS: usize = 100_000;
/// Lines of rows at most.
const MOST_LINES: f64 = 3_000.0;
/// Joints that differ by less in height are level with one another, m.
const LEVEL: f64 = 0.15;

/// Why drip can't be laid on an area.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum DripFault {
    /// It names no area.
    #[error("that irrigated area does not exist")]
    NoArea,
    /// All of it lies under something else.
    #[error("no space is left in the area after removing the objects in it")]
    NothingLeft,
    /// Not even one row fits between its edges.
    #[error("the area is narrower than twice the edge distance")]
    TooNarrow {
        /// Of the ground.
        width: Length,
        /// That rows keep off.
        edge: Length,
    },
    /// No row is long enough for one emitter.
    #[error("emitter spacing is longer than the longest row")]
    EmittersApart {
        /// The longest row.
        row: Length,
        /// Between emitters.
        apart: Length,
    },
    /// One line can't be snaked round what lies in the ground.
    #[error("one line cannot be snaked over an area in several pieces or with obstacles. Use headers")]
    NoSnake,
    /// More than can be solved.
    #[error("about {0} emitters or plants is too many. Split the area first")]
    TooMany(usize),
    /// No plant is drawn on it.
    #[error("no plants drawn in this area. Draw plants or lay rows")]
    NoPlants,
    /// A ring passes less than the emitter before it.
    #[error("a ring of {} emitters cannot pass the flow of its feeding emitter", .0.count)]
    RingTooTight(RingTooTight),
    /// The emitter is not in the catalogue.
    #[error("its emitter is not in the catalog")]
    NoEmitter,
}

/// The tube that a drip product comes in.
pub fn tube_of(catalogue: &Catalogue, nozzle: &Nozzle) -> PipeId {
    nozzle.tube.clone().unwrap_or_else(|| {
        let duty = match nozzle.kind {
            Kind::Tape => PipeDuty::Tape,
            _ => PipeDuty::Dripline,
        };
        catalogue.pipe_of(duty).id()
    })
}

fn stuff(job: &Job, group: &HeadGroup, nozzle: &Nozzle) -> Stuff {
    Stuff {
        tube: tube_of(job.catalogue(), nozzle),
        header: group.pipe.clone(),
        micro: job.catalogue().pipe_of(PipeDuty::MicroTube).id(),
    }
}

/// Lays the drip of a group: one grid or line for each of its inlets. Lengths in metres, heights from spot
/// heights, or from the area's slope where none are measured. Deterministic.
///
/// Rows keep `edge` off the ground's edge and lie evenly at no more than the group's spacing; neighbours are
/// staggered by half an emitter spacing. Several inlets part the rows (or the plants along the line) into as
/// many neighbouring lots; where rows would be longer than they may be, the ground is cut across them first.
///
/// # Errors
/// [`DripFault`], of the whole group.
///
/// # Example
/// A bed of 3 by 20 ft, rows at most 15 in apart, 3 in off its edges: three rows of 19.5 ft (a test holds
/// it).
pub fn lay(job: &Job, group: &HeadGroup) -> Result<Vec<Laid>, DripFault> {
    let laying = group.drip.as_ref().ok_or(DripFault::NoArea)?;
    let mut parts = match laying {
        DripLaying::Rows(rows) => lay_rows(job, group, rows)?,
        DripLaying::Plants(laying) => {
            let nozzle = job.catalogue().nozzle(&group.nozzle).ok_or(DripFault::NoEmitter)?;
            let stuff = stuff(job, group, nozzle);
            let of = |(i, inlet): (usize, &crate::plan::DrawnHead)| {
                plants(job, group, laying, (i, group.drawn.len()), inlet.at, &stuff)
            };
            group.drawn.iter().enumerate().map(of).collect::<Result<_, _>>()?
        }
    };
    let heights = job.site.heights();
    let area = group.area.as_deref().and_then(|a| job.site.area(a));
    let fall = area.and_then(|a| {
        let toward = a.slope_toward.filter(|_| heights.is_empty() && a.slope_percent > 0.0)?;
        let way = Point::default().toward(90.0 - toward, 1.0);
        Some(way * (a.slope_percent / 100.0))
    });
    for laid in &mut parts {
        let inlet = laid.joints[0].at;
        for joint in &mut laid.joints {
            joint.height = match fall {
                Some(fall) => Length::from_m(-fall.dot(joint.at - inlet)),
                None => height_at(&heights, joint.at).unwrap_or_default(),
            };
        }
        valves(laid);
    }
    Ok(parts)
}

/// What each inlet of a group takes at nominal pressure; none where the group's drip is not laid. Nothing
/// where it can't be.
pub fn inlet_flows(job: &Job, group: &HeadGroup) -> Option<Vec<Flow>> {
    group.drip.as_ref()?;
    let parts = lay(job, group).map(|parts| parts.iter().map(Laid::flow).collect());
    Some(parts.unwrap_or_else(|_| vec![Flow::ZERO; group.drawn.len()]))
}

fn lay_rows(job: &Job, group: &HeadGroup, rows: &RowLaying) -> Result<Vec<Laid>, DripFault> {
    let area = group.area.as_deref().ok_or(DripFault::NoArea)?;
    let nozzle = job.catalogue().nozzle(&group.nozzle).ok_or(DripFault::NoEmitter)?;
    let (ground, all, widest) = rows_on(job, group, rows, area)?;
    let inlets = group.drawn.len().max(1);
    let columns = rows.longest.map(|longest| columns(&all, longest));
    let enough = |c: &Vec<usize>| c.iter().any(|n| *n > 1) && c.iter().sum::<usize>() <= inlets;
    let cut_up = columns.filter(enough).map(|c| cut(&all, &c));
    let by_column = cut_up.as_ref().and_then(|cut| lots_by_column(cut, inlets));
    let (all, lots) = match (cut_up, by_column) {
        (Some(cut), Some(lots)) => (cut, lots),
        _ => {
            let lots = lots(&all, inlets);
            (all, lots)
        }
    };
    let count = all.iter().map(|s| s.emitters.len()).sum::<usize>().max(1);
    let stuff = stuff(job, group, nozzle);
    let emitter = nozzle.flow_for_arc(360);
    let mut parts = Vec::new();
    for (part, inlet) in group.drawn.iter().enumerate() {
        let mine = all.iter().zip(&lots).filter(|(_, lot)| **lot == part);
        let mine: Vec<Span> = mine.map(|(s, _)| s.clone()).collect();
        if mine.is_empty() {
            return Err(DripFault::TooMany(group.drawn.len()));
        }
        let one_piece = mine.windows(2).all(|w| w[0].next_line() == w[1].line());
        if rows.ends == RowEnds::Snake && !one_piece {
            return Err(DripFault::NoSnake);
        }
        let at = turned(inlet.at, -ground.heading());
        let mut laid = grid(&ground, &mine, rows.ends, at, &stuff, emitter);
        laid.ground_m2 = ground.m2 * laid.emitters.len() as f64 / count as f64;
        laid.row_spacing = Length::from_m(widest);
        parts.push(laid);
    }
    Ok(parts)
}

/// The ground that rows of a group lie on, the rows from edge to edge, and the widest that they lie apart, m.
fn rows_on(
    job: &Job,
    group: &HeadGroup,
    rows: &RowLaying,
    area: &str,
) -> Result<(RowGround, Vec<Span>, f64), DripFault> {
    let ground = RowGround::of(job, area, rows.edge, rows.heading, rows.is_buried())?;
    let lines: f64 = ground.pieces.iter().map(|p| (p.high - p.low) / group.spacing.m() + 2.0).sum();
    let about = ground.m2 / (group.spacing.m() * rows.emitter_spacing.m());
    if about > MOST_EMITTERS as f64 || lines > MOST_LINES {
        return Err(DripFault::TooMany(about as usize));
    }
    let (all, widest) = spans(&ground, group.spacing, rows.emitter_spacing);
    let longest = all.iter().map(|s| s.to - s.from).fold(0.0, f64::max);
    if all.is_empty() || longest < rows.emitter_spacing.m() * 0.75 {
        let row = longest.max(longest_span(&ground));
        return Err(DripFault::EmittersApart { row: Length::from_m(row), apart: rows.emitter_spacing });
    }
    Ok((ground, all, widest))
}

/// How many lots the rows of a group are cut into so that none is longer than it may be.
pub(super) fn lots_of_rows(job: &Job, group: &HeadGroup) -> Result<usize, DripFault> {
    let Some(DripLaying::Rows(rows)) = &group.drip else {
        return Ok(1);
    };
    let Some(longest) = rows.longest else {
        return Ok(1);
    };
    let area = group.area.as_deref().ok_or(DripFault::NoArea)?;
    let (_, all, _) = rows_on(job, group, rows, area)?;
    Ok(columns(&all, longest).iter().sum())
}

/// The longest way along the rows, whether an emitter fits or not.
fn longest_span(ground: &RowGround) -> f64 {
    let at = |p: &super::ground::Piece| p.spans((p.low + p.high) / 2.0);
    let all = ground.pieces.iter().flat_map(at);
    all.map(|s| s.1 - s.0).fold(0.0, f64::max)
}

/// The flush valve at the lowest of the ends across from the inlet, of level ones at the farthest; air at the
/// highest joint, of level ones at the one farthest from the flush valve.
fn valves(laid: &mut Laid) {
    let joints = &laid.joints;
    let far = |a: usize, b: usize| joints[a].at.distance(joints[b].at);
    let lowest = laid.flushed.iter().map(|j| joints[*j].height.m()).fold(f64::MAX, f64::min);
    let low = laid.flushed.iter().copied().filter(|j| joints[*j].height.m() <= lowest + LEVEL);
    let flush = low.max_by(|a, b| far(*a, 0).total_cmp(&far(*b, 0)));
    let highest = joints.iter().map(|j| j.height.m()).fold(f64::MIN, f64::max);
    let ends = laid.tubes.iter().filter(|t| !matches!(t.part, super::Part::Row(_)));
    let high = ends.flat_map(|t| [t.from, t.to]).filter(|j| joints[*j].height.m() >= highest - LEVEL);
    let off = flush.unwrap_or(0);
    let air = high.max_by(|a, b| far(*a, off).total_cmp(&far(*b, off)));
    (laid.flush, laid.air) = (flush, air);
}
