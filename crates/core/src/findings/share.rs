use crate::catalogue::{Kind, Nozzle};
use crate::coverage::{RATE_STOP, RATE_WATCH, Reaching, served};
use crate::job::Job;
use crate::plan::{DrawnHead, Exposure, HeadGroup, Plants, SLOPE_APART_PERCENT, Soil};

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
        let ratio = rate(job, a) / rate(job, b);
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

/// Nominal flow over the ground that the heads water, L/min per m2: drawn heads by where they stand, listed ones by the
/// spacing that they are laid at.
fn rate(job: &Job, group: &HeadGroup) -> f64 {
    let Some(nozzle) = job.catalogue().nozzle(&group.nozzle) else {
        return 1.0;
    };
    let scale = job.ground_scale(group);
    let served = where_they_stand(job, group, nozzle);
    let (mut flow, mut area) = (0.0, 0.0);
    for (place, (index, arc, _)) in group.heads().enumerate() {
        flow += group.flow_of(nozzle, index, arc).lpm();
        area += match &served {
            Some(served) => served.get(place).copied().unwrap_or(0.0),
            None => group.ground_of_head(nozzle, index, arc) * scale,
        };
    }
    (flow / area.max(1e-9)).max(1e-9)
}

/// Ground of each head of a drawn group that throws over a sector, among all such heads of its area; none for others.
fn where_they_stand(job: &Job, group: &HeadGroup, nozzle: &Nozzle) -> Option<Vec<f64>> {
    let area = group.area.as_deref()?;
    let shape = &job.site.area(area)?.shape;
    if group.drawn.len() < 2 || !group.listed.is_empty() || nozzle.pattern.is_some() || nozzle.kind.is_drip()
    {
        return None;
    }
    let on_area = job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    let mut heads: Vec<Reaching> = Vec::new();
    let mut own = 0..0;
    for g in on_area {
        let Some(n) = job.catalogue().nozzle(&g.nozzle).filter(|n| n.pattern.is_none()) else { continue };
        let from = heads.len();
        let reaching = |h: &DrawnHead| {
            let throw = h.radius.or(n.radius)?.m();
            Some(Reaching { at: h.at, throw, arc: h.arc, facing: h.facing })
        };
        heads.extend(g.drawn.iter().filter_map(reaching));
        if g.id == group.id {
            own = from..heads.len();
        }
    }
    let each = served(shape, &heads);
    (own.len() == group.drawn.len()).then(|| each[own].to_vec())
}
