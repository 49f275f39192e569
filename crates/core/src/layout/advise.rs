use super::field::Field;
use super::reach::DRIP_ONLY;
use crate::catalogue::Kind;
use crate::plan::{HeadSchool, Plan, SLOPE_APART_PERCENT, Soil};
use crate::site::{AreaKind, Wind};
use crate::units::Length;

/// Which kind of head suits an area.
#[derive(Debug, Clone, PartialEq)]
pub struct Advice {
    /// The kind; drip where nothing that throws suits.
    pub kind: Kind,
    /// Why, for people.
    pub why: String,
    /// Width of the ground at its widest.
    pub width: Length,
}

const FT: f64 = 0.3048;

/// The kind of head for an area by its width, plants, soil, slope, wind and the house's rule.
/// None for what is no area.
///
/// # Source
/// Practice by reach: strips and drip below 5 ft, sprays to about 18 ft, rotators to 35 ft, rotors
/// on open ground; slow rates on slopes, clay and in wind.
pub fn advise(plan: &Plan, area: &str) -> Option<Advice> {
    let ground = plan.site.area(area)?;
    let field = Field::of(&plan.site, area, 1.0)?;
    let width = super::propose::width(&field).ok()?;
    let u = plan.units;
    let wide = Length::from_m(width).show_tape(u);
    let heavy = matches!(ground.soil, Soil::Clay | Soil::SiltyClay | Soil::ClayLoam);
    let slow = ground.slope_percent > SLOPE_APART_PERCENT
        || field.kind() == AreaKind::Slope
        || heavy
        || ground.wind == Wind::Windy;
    let reason = if ground.slope_percent > SLOPE_APART_PERCENT || field.kind() == AreaKind::Slope {
        "on a slope a slow rate soaks in"
    } else if heavy {
        "on heavy soil a slow rate soaks in"
    } else {
        "in wind slow streams carry better than fine spray"
    };
    let (kind, why) = match field.kind() {
        _ if width < DRIP_ONLY => (
            Kind::Dripline,
            format!("{wide} wide: under 2 ft (60 cm) only drip keeps to it"),
        ),
        AreaKind::Containers => (Kind::Emitter, "containers want water at each plant".into()),
        AreaKind::Hedge | AreaKind::Vegetables => (
            Kind::Dripline,
            "rows are watered at the root by drip; heads over them wet leaves and paths".into(),
        ),
        AreaKind::Trees => (
            Kind::Bubbler,
            "trees want water at the root ball, in a basin or by drip".into(),
        ),
        _ if width < 5.0 * FT => (Kind::Spray, format!("{wide} wide: strip patterns, or drip")),
        _ if plan.rules.heads == HeadSchool::Spray && width < 20.0 * FT => {
            (Kind::Spray, "the house sets sprays wherever they reach".into())
        }
        _ if (slow || plan.rules.heads == HeadSchool::Rotator) && width < 13.0 * FT => (
            Kind::RotatorShort,
            format!(
                "{wide} wide; {}",
                if slow {
                    reason
                } else {
                    "the house sets rotators wherever they reach"
                }
            ),
        ),
        _ if (slow || plan.rules.heads == HeadSchool::Rotator) && width < 60.0 * FT => (
            Kind::Rotator,
            format!(
                "{wide} wide; {}",
                if slow {
                    reason
                } else {
                    "the house sets rotators wherever they reach"
                }
            ),
        ),
        _ if width < 19.0 * FT => (Kind::Spray, format!("{wide} wide: within the reach of sprays")),
        _ if width < 60.0 * FT => (
            Kind::Rotator,
            format!("{wide} wide: rotators reach across with fewer heads and less flow than sprays"),
        ),
        _ if width < 150.0 * FT => (Kind::RotorMid, format!("{wide} wide: open ground for rotors")),
        _ => (
            Kind::RotorLarge,
            format!("{wide} wide: open ground for large rotors, if the pressure is there"),
        ),
    };
    Some(Advice {
        kind,
        why,
        width: Length::from_m(width),
    })
}
