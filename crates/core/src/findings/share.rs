use crate::catalogue::{ArcRule, Kind, Nozzle};
use crate::coverage::{RATE_STOP, RATE_WATCH};
use crate::job::Job;
use crate::plan::{Exposure, HeadGroup, Plants, SLOPE_APART_PERCENT, Soil};

/// How much a reason weighs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Weight {
    /// Not unless the installer insists.
    Unless,
    /// Never.
    Never,
}

/// A reason why two groups should not share a valve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum ApartReason {
    /// Sprinklers and drip.
    Drip,
    /// Two kinds that apply water at different rates.
    Kinds(Kind, Kind),
    /// One gets so many times the rate of the other.
    Rates(f64),
    /// Containers with ground.
    Containers,
    /// Trees with shallow roots.
    Trees,
    /// Lawn with planting.
    Lawn,
    /// Other plants that differ.
    Plants,
    /// Sun and shade.
    Sun,
    /// Slope and flat.
    Slope,
    /// Height between them.
    Height,
    /// Sand and clay.
    Soil,
}

/// A reason with its weight.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Apart {
    /// How much it weighs.
    pub weight: Weight,
    /// What it is.
    pub reason: ApartReason,
}

/// Highest height difference on one valve, feet: beyond it low heads drain and high ones starve.
pub const HEIGHT_APART_FT: f64 = 5.0;

/// Why two groups should not share a valve; empty: they may.
pub fn reasons_apart(job: &Job, a: &HeadGroup, b: &HeadGroup) -> Vec<Apart> {
    let mut reasons = Vec::new();
    let catalogue = job.catalogue();
    let (Some(na), Some(nb)) = (catalogue.nozzle(&a.nozzle), catalogue.nozzle(&b.nozzle)) else {
        return reasons;
    };
    let mut apart = |weight, reason| reasons.push(Apart { weight, reason });
    let never_if = |never| if never { Weight::Never } else { Weight::Unless };
    if na.kind.is_drip() != nb.kind.is_drip() {
        apart(Weight::Never, ApartReason::Drip);
    } else if na.kind != nb.kind {
        let weight = never_if(kinds_differ_in_rate(na.kind, nb.kind));
        apart(weight, ApartReason::Kinds(na.kind, nb.kind));
    } else if !na.kind.is_drip() {
        let ratio = ratio(job, (a, na), (b, nb));
        let ratio = ratio.max(1.0 / ratio);
        if ratio > RATE_WATCH {
            apart(never_if(ratio > RATE_STOP), ApartReason::Rates(ratio));
        }
    }
    if a.plants != b.plants {
        let reason = match (a.plants, b.plants) {
            (Plants::Containers, _) | (_, Plants::Containers) => ApartReason::Containers,
            (Plants::Trees, _) | (_, Plants::Trees) => ApartReason::Trees,
            (Plants::Lawn, _) | (_, Plants::Lawn) => ApartReason::Lawn,
            _ => ApartReason::Plants,
        };
        apart(Weight::Unless, reason);
    }
    let sun = |e: Exposure| e as i32;
    if (sun(a.exposure) - sun(b.exposure)).abs() >= 2 {
        apart(Weight::Unless, ApartReason::Sun);
    }
    let steep = |g: &HeadGroup| g.slope_percent >= SLOPE_APART_PERCENT;
    if steep(a) != steep(b) {
        apart(Weight::Unless, ApartReason::Slope);
    } else if (a.rise - b.rise).ft().abs() > HEIGHT_APART_FT {
        apart(Weight::Unless, ApartReason::Height);
    }
    let heavy = |s: Soil| matches!(s, Soil::Clay | Soil::SiltyClay | Soil::ClayLoam);
    let light = |s: Soil| matches!(s, Soil::Sand | Soil::LoamySand);
    if heavy(a.soil) && light(b.soil) || light(a.soil) && heavy(b.soil) {
        apart(Weight::Unless, ApartReason::Soil);
    }
    reasons
}

/// Short and large rotors differ less among themselves than spray and rotators do.
fn kinds_differ_in_rate(a: Kind, b: Kind) -> bool {
    let rotor = Kind::is_rotor;
    !(rotor(a) && rotor(b) || a.is_drip() && b.is_drip())
}

/// How many times the rate of one group that of another is, over or under 1.
///
/// Rotors keep their flow at any arc, so what counts is where they stand: on one area the same grid, so flow by arc (a
/// quarter of 0.75 gpm and a half of 1.5 gpm both make 3.0 gpm of a full circle, although their charts give throws of 29 and
/// 33 ft); on two areas what each area gets. Others are matched by their make.
fn ratio(job: &Job, a: (&HeadGroup, &Nozzle), b: (&HeadGroup, &Nozzle)) -> f64 {
    let by_place =
        |(g, n): (&HeadGroup, &Nozzle)| n.arc_rule == ArcRule::Any && g.is_drawn() && g.area.is_some();
    if !by_place(a) || !by_place(b) {
        return rate(job, a.0, a.1) / rate(job, b.0, b.1);
    }
    if a.0.area == b.0.area {
        return of_full_circle(a) / of_full_circle(b);
    }
    area_rate(job, a) / area_rate(job, b)
}

/// Flow of a group over its circles, L/min.
fn of_full_circle((group, nozzle): (&HeadGroup, &Nozzle)) -> f64 {
    let each = group.heads().map(|(i, arc, _)| (group.flow_of(nozzle, i, arc).lpm(), f64::from(arc) / 360.0));
    let (flow, circles) = each.fold((0.0, 0.0), |(q, c), (flow, share)| (q + flow, c + share));
    (flow / circles.max(1e-9)).max(1e-9)
}

/// What the area of a group gets from all heads of its kind, L/min per m2.
fn area_rate(job: &Job, (group, nozzle): (&HeadGroup, &Nozzle)) -> f64 {
    let flow = |g: &HeadGroup| {
        let n = job.catalogue().nozzle(&g.nozzle).filter(|n| n.kind == nozzle.kind)?;
        Some(g.heads().map(|(i, arc, _)| g.flow_of(n, i, arc).lpm()).sum::<f64>())
    };
    let on_area = job.groups.iter().filter(|g| g.area == group.area);
    let m2 = group.area.as_deref().and_then(|id| job.site.area(id)).map_or(0.0, |a| a.shape.area_m2());
    (on_area.filter_map(flow).sum::<f64>() / m2.max(1e-9)).max(1e-9)
}

/// Nominal flow over the ground that the heads are to water, L/min per m2.
fn rate(job: &Job, group: &HeadGroup, nozzle: &Nozzle) -> f64 {
    let scale = job.ground_scale(group);
    let (mut flow, mut area) = (0.0, 0.0);
    for (index, arc, _) in group.heads() {
        flow += group.flow_of(nozzle, index, arc).lpm();
        area += group.ground_of_head(nozzle, index, arc) * scale;
    }
    (flow / area.max(1e-9)).max(1e-9)
}
