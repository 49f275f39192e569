use super::field::Field;
use super::strips::serves;
use crate::catalogue::{Catalogue, Kind, Lies};
use crate::coverage::DRIP_ONLY;
use crate::plan::{HeadSchool, Plan};
use crate::site::{AreaKind, SAME, SLOPE_APART_PERCENT, Soil, Wind, widest};
use crate::units::Length;

/// Why a kind of head suits an area.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AdviceReason {
    /// Under 2 ft wide: only drip keeps to it.
    DripOnly,
    /// Containers want water at each plant.
    Containers,
    /// Rows are watered at the root.
    Rows,
    /// In a bed rows at the root pass the plants that a spray would hit.
    Bed,
    /// Trees want water at the root ball.
    Trees,
    /// Narrow: strip patterns, or drip.
    Strips,
    /// Narrow, and no strip pattern is near it.
    Narrow,
    /// The house sets sprays wherever they reach.
    HouseSprays,
    /// The house sets rotators wherever they reach.
    HouseRotators,
    /// On a slope a slow rate soaks in.
    Slope,
    /// On heavy soil a slow rate soaks in.
    HeavySoil,
    /// In wind slow streams carry better than fine spray.
    Wind,
    /// Within the reach of sprays.
    SprayReach,
    /// Rotators reach across with fewer heads and less flow.
    RotatorReach,
    /// Open ground for rotors.
    Open,
    /// Open ground for large rotors, if the pressure is there.
    WideOpen,
}

/// Which kind of head suits an area.
#[derive(Debug, Clone, PartialEq)]
pub struct Advice {
    /// The kind; drip where nothing that throws suits.
    pub kind: Kind,
    /// Why.
    pub why: AdviceReason,
    /// Width of the ground at its widest.
    pub width: Length,
}

const FT: f64 = 0.3048;
/// Beds up to so wide are watered by rows, ft.
const BED: f64 = 30.0;

/// The kind of head for an area by its width, plants, soil, slope, wind and the house's rule.
/// None for what is no area.
///
/// # Source
/// Practice by reach: rows in beds, hedges and vegetables; strips and drip below 5 ft, sprays to about 18 ft,
/// rotators to 35 ft, rotors on open ground; slow rates on slopes, clay and in wind.
pub fn advise(plan: &Plan, area: &str) -> Option<Advice> {
    let ground = plan.site.area(area)?;
    let field = Field::of(&plan.site, area, 1.0)?;
    let width = widest(&field.pieces).m();
    // What is drawn as 5 ft is not under 5 ft.
    let under = |feet: f64| width < feet * FT - SAME;
    let strip = || {
        let patterns = Catalogue::builtin().nozzles.iter().filter_map(|n| n.pattern);
        let mut along = patterns.filter(|p| p.lies == Lies::Across);
        along.any(|p| serves(p.width.m(), width))
    };
    let heavy = matches!(ground.soil, Soil::Clay | Soil::SiltyClay | Soil::ClayLoam);
    let steep = ground.slope_percent > SLOPE_APART_PERCENT || field.kind() == AreaKind::Slope;
    // What asks for a slow rate, the ground before the house.
    let slow = if steep {
        Some(AdviceReason::Slope)
    } else if heavy {
        Some(AdviceReason::HeavySoil)
    } else if ground.wind == Wind::Windy {
        Some(AdviceReason::Wind)
    } else {
        (plan.rules.heads == HeadSchool::Rotator).then_some(AdviceReason::HouseRotators)
    };
    let (kind, why) = match (field.kind(), slow) {
        _ if under(DRIP_ONLY / FT) => (Kind::Dripline, AdviceReason::DripOnly),
        (AreaKind::Containers, _) => (Kind::Emitter, AdviceReason::Containers),
        (AreaKind::Hedge | AreaKind::Vegetables, _) => (Kind::Dripline, AdviceReason::Rows),
        (AreaKind::Trees, _) => (Kind::Bubbler, AdviceReason::Trees),
        // Heads in the middle of a wide bed stand clear of most of it; in others plants grow before them.
        (AreaKind::Bed, _) if plan.rules.heads == HeadSchool::ByGround && under(BED) => {
            (Kind::Dripline, AdviceReason::Bed)
        }
        _ if under(5.0) && strip() => (Kind::Spray, AdviceReason::Strips),
        _ if under(5.0) => (Kind::Dripline, AdviceReason::Narrow),
        _ if plan.rules.heads == HeadSchool::Spray && under(20.0) => (Kind::Spray, AdviceReason::HouseSprays),
        (_, Some(slow)) if under(13.0) => (Kind::RotatorShort, slow),
        (_, Some(slow)) if under(60.0) => (Kind::Rotator, slow),
        _ if under(19.0) => (Kind::Spray, AdviceReason::SprayReach),
        _ if under(60.0) => (Kind::Rotator, AdviceReason::RotatorReach),
        _ if under(150.0) => (Kind::RotorMid, AdviceReason::Open),
        _ => (Kind::RotorLarge, AdviceReason::WideOpen),
    };
    Some(Advice { kind, why, width: Length::from_m(width) })
}
