//! Drip for an area from a few wishes: what is not wished is chosen by the ground.

use super::choose::{choose, least_bend, usual_edge};
use super::ground::CONTOUR_FROM_PERCENT;
use super::laid::{Fittings, Laid, Part};
use super::lay::{DripFault, lay, lots_of_rows};
use super::longest::{RowAsk, longest_row};
use super::table::row_ask;
use crate::catalogue::{Kind, Nozzle, Pipe, PipeDuty, PipeId};
use crate::job::Job;
use crate::network::hazen_williams;
use crate::plan::{
    DrawnHead, DripLaying, Edit, EmitterJoin, HeadGroup, PlantLaying, RowEnds, RowLaying, left_behind,
};
use crate::site::{Area, AreaKind, ObjectKind, PlaceKind, Point};
use crate::units::{Flow, KPA_PER_M, Length, Speed, Volume};
use rust_decimal::Decimal;
use rust_decimal::prelude::FromPrimitive;

/// Flow up to which half-inch line will do, gph; and length, ft. Rules of practice: what is laid is solved.
const HALF_INCH_GPH: f64 = 200.0;
const HALF_INCH_FT: f64 = 200.0;
/// Share of the pressure at the regulator that header and fittings may take before the rows begin.
const HEADER_TAKES: f64 = 0.1;
/// Parts of one area at most.
const MOST_PARTS: usize = 64;
/// Parts of plants that are tried beyond the first number.
const MORE_PARTS: usize = 3;

/// What is wished of an area's drip; all else follows from the ground.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct DripWish {
    /// Dripline, tape or point emitters.
    pub kind: Option<Kind>,
    /// Product of the catalogue.
    pub nozzle: Option<String>,
    /// Between emitters of a row.
    pub emitter_spacing: Option<Length>,
    /// Between rows at most.
    pub row_spacing: Option<Length>,
    /// Rows keep so far off the edge.
    pub edge: Option<Length>,
    /// Under the ground.
    pub depth: Option<Length>,
    /// No row is longer; none: as long as the tube feeds.
    pub longest: Option<Length>,
    /// How the rows' ends are joined.
    pub ends: Option<RowEnds>,
    /// The way the rows run, degrees counter-clockwise from the right; none: as the ground asks for.
    pub heading: Option<f64>,
    /// How emitters hang on the line past plants.
    pub joined: Option<EmitterJoin>,
    /// Emitters at every plant; none: by its canopy.
    pub each: Option<u32>,
    /// What the basin about one plant holds.
    pub basin: Option<Volume>,
}

impl DripWish {
    /// What a group has now.
    pub fn like(group: &HeadGroup) -> Self {
        let mut wish =
            Self { nozzle: Some(group.nozzle.clone()), row_spacing: Some(group.spacing), ..Self::default() };
        match &group.drip {
            Some(DripLaying::Rows(rows)) => {
                wish.emitter_spacing = Some(rows.emitter_spacing);
                wish.edge = Some(rows.edge);
                wish.depth = Some(rows.depth);
                wish.ends = Some(rows.ends);
                wish.heading = rows.heading;
                wish.longest = rows.longest;
            }
            Some(DripLaying::Plants(plants)) => {
                wish.joined = Some(plants.joined);
                wish.each = plants.each;
                wish.basin = plants.basin;
            }
            None => {}
        }
        wish
    }
}

/// Drip for an area, as one edit.
#[derive(Debug, Clone, PartialEq)]
pub struct DripDesign {
    /// The group that it becomes.
    pub group: HeadGroup,
    /// What is laid, part by part.
    pub parts: Vec<Laid>,
    /// Takes the place of what waters the area; locked heads stay.
    pub edit: Edit,
}

/// The kind of drip that an area's plants ask for: tape for vegetable rows, emitters where trees or
/// containers are drawn one by one, else dripline.
pub fn usual_kind(job: &Job, area: &Area) -> Kind {
    let planted = job.site.objects.iter().any(|o| match &o.what {
        ObjectKind::Plant(plant) => plant.spots().iter().any(|p| area.shape.contains(*p)),
        _ => false,
    });
    match area.kind {
        AreaKind::Vegetables => Kind::Tape,
        AreaKind::Trees | AreaKind::Containers if planted => Kind::Emitter,
        _ => Kind::Dripline,
    }
}

/// Drip for an area. `limit` is the flow that one valve may take: more is parted into neighbouring lots, each
/// with an inlet of its own. Inlets stand where pipe from the valve box (else from the water) comes first;
/// those that a hand has moved stay while their number does.
///
/// # Errors
/// [`DripFault`].
pub fn design(job: &Job, area: &str, wish: &DripWish, limit: Option<Flow>) -> Result<DripDesign, DripFault> {
    let ground = job.site.area(area).ok_or(DripFault::NoArea)?;
    let here = || job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    let was = here().find(|g| g.drip.is_some());
    let product = wish.nozzle.as_deref().and_then(|id| job.catalogue().nozzle(id));
    let kind = wish.kind.or(product.map(|n| n.kind)).unwrap_or_else(|| usual_kind(job, ground));
    let choice = choose(job.catalogue(), ground, kind, job.units).ok_or(DripFault::NoEmitter)?;
    let fresh = job.fresh_id('g');
    let id = was.map_or(fresh.as_str(), |g| g.id.as_str());
    let name = job.site.object(area).map_or("", |o| o.title());
    let nozzle = product.filter(|n| n.kind == kind).map_or(choice.nozzle, |n| n.id.clone());
    let mut group = HeadGroup {
        plants: ground.kind.plants(),
        exposure: ground.exposure,
        soil: ground.soil,
        slope_percent: ground.slope_percent,
        area: Some(area.to_owned()),
        spacing: wish.row_spacing.unwrap_or(choice.row_spacing),
        pipe: line(job, "3/4in"),
        distance: Length::ZERO,
        ..HeadGroup::new(id, name, &nozzle)
    };
    group.drip = Some(if kind == Kind::Emitter {
        let other = match was.and_then(|g| g.drip.as_ref()) {
            Some(DripLaying::Plants(plants)) => plants.other.clone(),
            _ => Vec::new(),
        };
        DripLaying::Plants(PlantLaying {
            joined: wish.joined.unwrap_or_default(),
            each: wish.each,
            basin: wish.basin,
            other,
        })
    } else {
        DripLaying::Rows(RowLaying {
            edge: wish.edge.unwrap_or(usual_edge(job.units)),
            ends: wish.ends.unwrap_or(if kind == Kind::Tape { RowEnds::Closed } else { RowEnds::Headers }),
            heading: wish.heading,
            depth: wish.depth.unwrap_or(choice.depth),
            longest: wish.longest,
            ..RowLaying::new(wish.emitter_spacing.unwrap_or(choice.emitter_spacing))
        })
    });
    let start = start(job, ground);
    group.drawn = vec![inlet(job.fresh_id('h'), start)];
    let whole = lay(job, &group)?;
    let flow: Flow = whole.iter().map(Laid::flow).sum();
    if kind == Kind::Emitter && small(&whole) {
        group.pipe = line(job, "1/2in");
    }
    // Rows longer than their tube feeds are cut: each lot with an inlet of its own.
    let lots = cut_long_rows(job, ground, &mut group, &whole)?;
    let each = limit
        .filter(|l| l.lpm() > 0.0)
        .map_or(1, |l| (flow / (l * lots as f64) - 1e-6).ceil().max(1.0) as usize);
    let parts = (lots * each).min(MOST_PARTS.max(lots));
    let parts = if kind == Kind::Emitter {
        fed_parts(job, &group, flow, parts, start)?
    } else {
        group.pipe = header(job, flow * (1.0 / parts as f64), &group.pipe);
        parts
    };
    let old = was.map_or(&[][..], |g| &g.drawn[..]);
    if old.len() == parts {
        group.drawn = old.to_vec();
    } else {
        place_inlets(job, &mut group, parts, start, old.first().and_then(|h| h.valve.clone()))?;
    }
    let parts = lay(job, &group)?;
    let mut edits = in_place(&group, here());
    if let Ok((after, _)) = job.replay(&Edit::batch(edits.clone())) {
        edits.extend(left_behind(job, &after));
    }
    Ok(DripDesign { edit: Edit::batch(edits), group, parts })
}

/// In how many parts plants are watered, at least so many: as few as their line feeds, each from an inlet of
/// its own. Where a few more don't, as on ground that rises too far, it stays as it was, and the zone's
/// findings say why: friction falls with nearly the cube of the number, height does not.
fn fed_parts(
    job: &Job,
    group: &HeadGroup,
    flow: Flow,
    least: usize,
    start: Point,
) -> Result<usize, DripFault> {
    let Some(pipe) = job.catalogue().pipe(&group.pipe) else {
        return Ok(least);
    };
    let carries = Flow::at_speed(pipe.inside, job.rules.velocity_watch);
    let by_flow = (flow / carries - 1e-6).ceil().max(1.0) as usize;
    let first = least.max(by_flow);
    for parts in first..=MOST_PARTS.min(first + MORE_PARTS) {
        let mut tried = group.clone();
        match place_inlets(job, &mut tried, parts, start, None) {
            Ok(()) => {}
            // As many parts as plants is the end of it.
            Err(DripFault::NoPlants) => break,
            Err(fault) => return Err(fault),
        }
        if lay(job, &tried)?.iter().all(|laid| feeds(job, &tried, laid)) {
            return Ok(parts);
        }
    }
    Ok(least)
}

/// Whether the line past plants leaves its last emitter the least pressure of its kind, at the pressure that
/// the kind is regulated to less a tenth, and no water runs too fast in it. Friction by Hazen and Williams,
/// and height.
fn feeds(job: &Job, group: &HeadGroup, laid: &Laid) -> bool {
    let class = job.catalogue().nozzle(&group.nozzle).map(|n| job.catalogue().class(n.kind));
    let Some(class) = class else { return true };
    let mut carried = vec![Flow::ZERO; laid.joints.len()];
    for emitter in &laid.emitters {
        carried[emitter.joint] = carried[emitter.joint] + emitter.flow;
    }
    // Tubes are laid outwards: from the last one inwards each knows what hangs on it.
    for tube in laid.tubes.iter().rev() {
        carried[tube.from] = carried[tube.from] + carried[tube.to];
    }
    let mut lost = vec![0.0; laid.joints.len()];
    for tube in &laid.tubes {
        let of = if tube.part == Part::Micro { &laid.stuff.micro } else { &laid.stuff.header };
        let Some(pipe) = job.catalogue().pipe(of) else {
            return true;
        };
        let flow = carried[tube.to];
        if tube.part != Part::Micro && Speed::in_pipe(flow, pipe.inside) > job.rules.velocity_watch {
            return false;
        }
        let friction = hazen_williams(flow, tube.length * (1.0 + job.rules.fittings), pipe.inside, pipe.c);
        let rise = laid.joints[tube.to].height - laid.joints[tube.from].height;
        lost[tube.to] = lost[tube.from] + friction.kpa() + rise.m() * KPA_PER_M;
    }
    let spare = class.nominal.kpa() * (1.0 - HEADER_TAKES) - class.low.kpa();
    laid.emitters.iter().all(|e| lost[e.joint] <= spare)
}

/// How many lots the rows of a group are cut into across their length, which is then written down in it: as many as
/// its wish asks for, else as its tube does. One where they may run from edge to edge.
fn cut_long_rows(
    job: &Job,
    ground: &Area,
    group: &mut HeadGroup,
    whole: &[Laid],
) -> Result<usize, DripFault> {
    let Some(DripLaying::Rows(rows)) = group.drip.as_mut() else {
        return Ok(1);
    };
    // One line over all the ground has no rows to be cut.
    if rows.ends == RowEnds::Snake {
        rows.longest = None;
        return Ok(1);
    }
    let longest = whole.iter().map(Laid::longest_row).reduce(Length::max);
    let most = rows.longest.or_else(|| {
        let nozzle = job.catalogue().nozzle(&group.nozzle)?;
        Some(most_of_row(job, ground, nozzle, rows)).filter(|l| *l > Length::ZERO)
    });
    let (Some(longest), Some(most)) = (longest, most) else {
        return Ok(1);
    };
    if longest <= most {
        // A wish stands, for when the ground grows.
        return Ok(1);
    }
    rows.longest = Some(most);
    let lots = lots_of_rows(job, group)?;
    if lots > MOST_PARTS {
        return Err(DripFault::TooMany(whole.iter().map(|l| l.emitters.len()).sum()));
    }
    Ok(lots)
}

/// The longest row of a product on some ground, at the pressure that its kind is regulated to, less a tenth that the
/// header takes; where the ground falls along the rows, up and down it. Whole metres or tens of feet.
pub fn most_of_row(job: &Job, ground: &Area, nozzle: &Nozzle, rows: &RowLaying) -> Length {
    let class = job.catalogue().class(nozzle.kind);
    let inlet = class.nominal * (1.0 - HEADER_TAKES);
    let Some(ask) = row_ask(job.catalogue(), nozzle, inlet, rows.emitter_spacing) else {
        return Length::ZERO;
    };
    let falls = ground.slope_percent / 100.0;
    let along =
        if rows.heading.is_none() && ground.slope_percent >= CONTOUR_FROM_PERCENT { 0.0 } else { falls };
    let slopes = [-along, along].into_iter();
    let most = slopes.map(|slope| longest_row(&RowAsk { slope, ..ask }).length);
    let most = most.reduce(Length::min).unwrap_or_default();
    if job.units.is_metric() {
        Length::from_m(most.m().floor())
    } else {
        Length::from_ft((most.ft() / 10.0).floor() * 10.0)
    }
}

/// The edits that put a group in the place of what waters its area. Locked heads stay.
fn in_place<'a>(group: &HeadGroup, here: impl Iterator<Item = &'a HeadGroup>) -> Vec<Edit> {
    let mut edits = Vec::new();
    for other in here.filter(|g| g.id != group.id) {
        let locked: Vec<DrawnHead> = other.drawn.iter().filter(|h| h.locked).cloned().collect();
        edits.push(if locked.is_empty() || other.drip.is_some() {
            Edit::remove::<HeadGroup>(other.id.clone())
        } else {
            Edit::put(HeadGroup { drawn: locked, listed: Vec::new(), ..other.clone() })
        });
    }
    edits.push(Edit::put(group.clone()));
    edits
}

fn line(job: &Job, size: &str) -> PipeId {
    let usual = job.catalogue().pipe_of(crate::catalogue::PipeDuty::DripLateral).id();
    let other = PipeId { size: size.to_owned(), ..usual.clone() };
    job.catalogue().pipe(&other).map_or(usual, |p| p.id())
}

/// The header of rows: as it is, or pipe wide enough for the flow where tube is not.
fn header(job: &Job, flow: Flow, usual: &PipeId) -> PipeId {
    let limit = job.rules.velocity_watch;
    let wide = |p: &&Pipe| Speed::in_pipe(flow, p.inside) <= limit;
    if job.catalogue().pipe(usual).as_ref().is_some_and(wide) {
        return usual.clone();
    }
    let duty = if job.units.is_metric() { PipeDuty::MetricLateral } else { PipeDuty::DrawnLateral };
    let material = &job.catalogue().pipe_of(duty).material;
    let mut sizes = job.catalogue().pipes.iter().filter(|p| p.material == *material);
    let last = sizes.clone().next_back();
    sizes.find(wide).or(last).map_or_else(|| usual.clone(), Pipe::id)
}

fn small(parts: &[Laid]) -> bool {
    parts.iter().all(|laid| {
        let line = laid.length_of(|p| matches!(p, Part::Line | Part::Feed)).ft();
        laid.flow().gpm() * 60.0 <= HALF_INCH_GPH && line <= HALF_INCH_FT
    })
}

/// From where pipe comes: the nearest valve box, else the water, else the ground's own lower left.
fn start(job: &Job, ground: &Area) -> Point {
    let middle = ground.shape.inner_point();
    let nearest = |kind| {
        let all = job.site.places(kind).map(|(_, p)| p.at);
        all.min_by(|a, b| a.distance(middle).total_cmp(&b.distance(middle)))
    };
    let corner = || {
        let corners = ground.shape.outline.flat(0.05);
        corners.into_iter().min_by(|a, b| (a.x + a.y).total_cmp(&(b.x + b.y)))
    };
    let places = [PlaceKind::ValveBox, PlaceKind::Meter, PlaceKind::Water];
    places.into_iter().find_map(nearest).or_else(corner).unwrap_or(middle)
}

fn inlet(id: String, at: Point) -> DrawnHead {
    DrawnHead { id, at, arc: 360, facing: 0.0, radius: None, valve: None, locked: false }
}

/// Every part is fed where it is nearest to the start.
fn place_inlets(
    job: &Job,
    group: &mut HeadGroup,
    parts: usize,
    start: Point,
    valve: Option<String>,
) -> Result<(), DripFault> {
    let mut last = 0;
    let mut fresh = || loop {
        last += 1;
        let id = format!("h{last}");
        let mut probe = job.groups.iter().flat_map(|g| &g.drawn);
        if !probe.any(|h| h.id == id) && job.site.object(&id).is_none() && job.group(&id).is_none() {
            return id;
        }
    };
    group.drawn = (0..parts).map(|_| inlet(fresh(), start)).collect();
    if let [one] = &mut group.drawn[..] {
        one.valve = valve;
    }
    let laid = lay(job, group)?;
    for (head, laid) in group.drawn.iter_mut().zip(&laid) {
        // A line past plants begins a step before the first of them.
        let first = laid.tubes.iter().find(|t| t.from == 0 || t.to == 0);
        if let Some(first) = first {
            let to = laid.joints[first.from.max(first.to)].at;
            let step = if laid.rows.is_empty() { 0.3 } else { 0.0 };
            let back = (start - to).unit().unwrap_or_default();
            head.at = to + back * f64::min(step, start.distance(to));
        }
    }
    Ok(())
}

/// One way to join rows, with what it takes.
#[derive(Debug, Clone, PartialEq)]
pub struct EndsWay {
    /// The way.
    pub ends: RowEnds,
    /// Tube with emitters.
    pub dripline: Length,
    /// Header and feed.
    pub plain: Length,
    /// Fittings.
    pub fittings: Fittings,
    /// Tube by its bore and fittings, at house prices.
    pub cost: Decimal,
}

/// Headers at both ends and one line snaked, side by side; a way that the ground does not allow says why.
pub fn ways_to_join(job: &Job, group: &HeadGroup) -> Vec<(RowEnds, Result<EndsWay, DripFault>)> {
    let way = |ends: RowEnds| -> Result<EndsWay, DripFault> {
        let mut tried = group.clone();
        if let Some(DripLaying::Rows(rows)) = tried.drip.as_mut() {
            rows.ends = ends;
        }
        let parts = lay(job, &tried)?;
        let sum = |f: fn(&Laid) -> Length| Length::from_m(parts.iter().map(|p| f(p).m()).sum());
        let mut fittings = Fittings::default();
        let mut cost = 0.0;
        for laid in &parts {
            let bore = |id: &PipeId| job.catalogue().pipe(id).map_or(Length::ZERO, |p| p.inside);
            let (tube, header) = (bore(&laid.stuff.tube), bore(&laid.stuff.header));
            let here = laid.fittings(least_bend(tube));
            fittings = fittings.with(here);
            let price = |inside: Length| number(job.rules.trench.pipe) * inside.inches().powi(2);
            cost += laid.dripline().m() * price(tube) + laid.plain_tube().m() * price(header);
            cost += here.all() as f64 * number(job.rules.trench.tee);
        }
        Ok(EndsWay {
            ends,
            dripline: sum(Laid::dripline),
            plain: sum(Laid::plain_tube),
            fittings,
            cost: Decimal::from_f64(cost).unwrap_or_default().round_dp(2),
        })
    };
    [RowEnds::Headers, RowEnds::Snake].into_iter().map(|e| (e, way(e))).collect()
}

fn number(price: Decimal) -> f64 {
    f64::try_from(price).unwrap_or(0.0)
}
