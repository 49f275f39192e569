use crate::catalogue::{Catalogue, Kind};
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
#[derive(Debug, Clone, PartialEq)]
pub struct Apart {
    /// How much it weighs.
    pub weight: Weight,
    /// For people.
    pub reason: String,
}

/// Highest height difference on one valve, feet: beyond it low heads drain and high ones starve.
const HEIGHT_APART_FT: f64 = 5.0;
/// Ratio of rates from which to watch.
pub(crate) const RATE_WATCH: f64 = 1.15;
/// Ratio of rates at which to stop.
pub(crate) const RATE_STOP: f64 = 1.5;

/// Why two groups should not share a valve; empty: they may.
pub fn reasons_apart(a: &HeadGroup, b: &HeadGroup, catalogue: &Catalogue) -> Vec<Apart> {
    let mut reasons = Vec::new();
    let (Some(na), Some(nb)) = (catalogue.nozzle(&a.nozzle), catalogue.nozzle(&b.nozzle)) else {
        return reasons;
    };
    let mut apart = |weight, text: &str| {
        reasons.push(Apart {
            weight,
            reason: text.to_owned(),
        })
    };
    if na.kind.is_drip() != nb.kind.is_drip() {
        apart(
            Weight::Never,
            "sprinklers and drip never share a valve; one part drowns before the other is wet",
        );
    } else if na.kind != nb.kind {
        let (ka, kb) = (&catalogue.kind(na.kind).label, &catalogue.kind(nb.kind).label);
        let weight = if kinds_differ_in_rate(na.kind, nb.kind) {
            Weight::Never
        } else {
            Weight::Unless
        };
        apart(
            weight,
            &format!(
                "{} and {} apply water at different rates",
                ka.to_lowercase(),
                kb.to_lowercase()
            ),
        );
    } else if !na.kind.is_drip() {
        let ratio = rate(a, catalogue) / rate(b, catalogue);
        let ratio = ratio.max(1.0 / ratio);
        if ratio > RATE_WATCH {
            let weight = if ratio > RATE_STOP {
                Weight::Never
            } else {
                Weight::Unless
            };
            apart(
                weight,
                &format!("one gets {ratio:.2} times the rate of the other"),
            );
        }
    }
    if a.plants != b.plants {
        let text = match (a.plants, b.plants) {
            (Plants::Containers, _) | (_, Plants::Containers) => "containers dry out sooner than ground",
            (Plants::Trees, _) | (_, Plants::Trees) => {
                "trees want water deep and seldom, shallow roots often"
            }
            (Plants::Lawn, _) | (_, Plants::Lawn) => "lawn and planting want different amounts",
            _ => "different plants want different amounts",
        };
        apart(Weight::Unless, text);
    }
    let sun = |e: Exposure| e as i32;
    if (sun(a.exposure) - sun(b.exposure)).abs() >= 2 {
        apart(Weight::Unless, "one is in the sun, the other in the shade");
    }
    let steep = |g: &HeadGroup| g.slope_percent >= SLOPE_APART_PERCENT;
    if steep(a) != steep(b) {
        apart(
            Weight::Unless,
            "slope and flat: water runs off the one while it soaks into the other",
        );
    } else if (a.rise - b.rise).ft().abs() > HEIGHT_APART_FT {
        apart(
            Weight::Unless,
            "over 5 ft (1.5 m) of height between them: low heads drain, high ones starve",
        );
    }
    let heavy = |s: Soil| matches!(s, Soil::Clay | Soil::SiltyClay | Soil::ClayLoam);
    let light = |s: Soil| matches!(s, Soil::Sand | Soil::LoamySand);
    if heavy(a.soil) && light(b.soil) || light(a.soil) && heavy(b.soil) {
        apart(Weight::Unless, "sand and clay take water at different rates");
    }
    reasons
}

/// Short and large rotors differ less among themselves than spray and rotators do.
fn kinds_differ_in_rate(a: Kind, b: Kind) -> bool {
    let rotor = |k| matches!(k, Kind::RotorShort | Kind::RotorMid | Kind::RotorLarge);
    !(rotor(a) && rotor(b) || a.is_drip() && b.is_drip())
}

/// Nominal flow over the area that the heads are to water, L/min per m2.
fn rate(group: &HeadGroup, catalogue: &Catalogue) -> f64 {
    let Some(nozzle) = catalogue.nozzle(&group.nozzle) else {
        return 1.0;
    };
    let spacing = group.spacing.m() * group.row_spacing.unwrap_or(group.spacing).m();
    let (mut flow, mut area) = (0.0, 0.0);
    for (_, arc, _) in group.heads() {
        flow += nozzle.flow_for_arc(arc).lpm();
        area += match nozzle.pattern {
            Some(strip) => strip.width.m() * strip.length.m(),
            None => spacing * f64::from(arc) / 360.0,
        };
    }
    (flow / area.max(1e-9)).max(1e-9)
}
