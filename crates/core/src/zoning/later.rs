//! Areas that come later: what is kept back for them.

use crate::catalogue::Kind;
use crate::drip::{choose, estimate};
use crate::job::Job;
use crate::layout::{advise, head_to_head};
use crate::units::{Flow, Length, Rate, Surface};

/// What is kept back for an area that comes later.
#[derive(Debug, Clone, PartialEq)]
pub struct LaterArea {
    /// Its id.
    pub area: String,
    /// Its name.
    pub name: String,
    /// The kind of head that it will take, by its ground.
    pub kind: Kind,
    /// Its ground.
    pub ground: Surface,
    /// What that kind applies.
    pub rate: Rate,
    /// What it will take all at once.
    pub flow: Flow,
    /// Stations that this needs; one strand of wire each.
    pub stations: usize,
    /// From the nearest main as drawn to its edge: where the stub is capped. None where no main is drawn.
    pub from_main: Option<Length>,
}

impl LaterArea {
    /// What one of its stations will take.
    pub fn flow_of_one(&self) -> Flow {
        self.flow * (1.0 / self.stations.max(1) as f64)
    }
}

/// Areas marked as later that no head stands on yet, in the plan's order. `limit` is what one valve may
/// take; one station each where it is not known.
///
/// Flow = rate of the kind head to head (drip: of the emitters that its soil asks for) over the ground;
/// stations = flow / limit, rounded up.
///
/// # Example
/// 1,540 ft2 for rotators at 0.45 in/h: 7.2 gpm, one station under 10 gpm.
pub fn later_areas(job: &Job, limit: Option<Flow>) -> Vec<LaterArea> {
    let watered = |id: &str| {
        job.groups
            .iter()
            .any(|g| g.area.as_deref() == Some(id) && g.count() > 0)
    };
    let later = job.site.areas().filter(|(o, a)| a.later && !watered(&o.id));
    later
        .filter_map(|(object, area)| {
            let kind = advise(job, &object.id)?.kind;
            let rate = rate_of(job, &object.id, kind)?;
            let ground = Surface::from_m2(area.shape.area_m2());
            let flow = Flow::from_lpm(rate.mmph() * ground.m2() / 60.0);
            let most = limit.filter(|l| *l > Flow::ZERO);
            let stations = most.map_or(1, |l| (flow / l - 1e-9).ceil().max(1.0) as usize);
            Some(LaterArea {
                area: object.id.clone(),
                name: object.title().to_owned(),
                kind,
                ground,
                rate,
                flow,
                stations,
                from_main: from_main(job, area),
            })
        })
        .collect()
}

/// What a kind applies on an area.
fn rate_of(job: &Job, area: &str, kind: Kind) -> Option<Rate> {
    let catalogue = job.catalogue();
    if kind.is_drip() {
        let kind = if kind == Kind::Tape { kind } else { Kind::Dripline };
        let choice = choose(catalogue, job.site.area(area)?, kind, job.units)?;
        let each = catalogue.nozzle(&choice.nozzle)?.flow;
        let flat = estimate(
            Surface::from_m2(1.0),
            choice.row_spacing,
            choice.emitter_spacing,
            each,
        );
        return Some(flat.rate);
    }
    if let Some((least, most)) = catalogue.class(kind).rates {
        return Some((least + most) * 0.5);
    }
    let of_kind = catalogue
        .nozzles
        .iter()
        .filter(|n| n.kind == kind && n.pattern.is_none());
    let all: Vec<_> = of_kind.map(|n| (n, 360)).collect();
    (!all.is_empty()).then(|| head_to_head(all.into_iter()))
}

/// From the nearest point of a drawn main to the edge of an area.
fn from_main(job: &Job, area: &crate::site::Area) -> Option<Length> {
    let edge = area.shape.outline.flat(0.1);
    let mains = job.piping.legs.iter().filter(|l| l.is_main());
    let points = mains.filter_map(|l| job.way_of(l)).flatten();
    let near = points.flat_map(|p| edge.iter().map(move |e| p.distance(*e)));
    near.min_by(f64::total_cmp).map(Length::from_m)
}
