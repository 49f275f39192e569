use crate::catalogue::{Catalogue, Kind, Nozzle};
use crate::site::{Area, AreaKind, Soil};
use crate::units::{Length, UnitSystem};

/// What soil, slope and plants ask for.
#[derive(Debug, Clone, PartialEq)]
pub struct Choice {
    /// Dripline, tape or emitter of the catalogue.
    pub nozzle: String,
    /// Between emitters on a row.
    pub emitter_spacing: Length,
    /// Between rows at most.
    pub row_spacing: Length,
    /// Under the ground; zero: on it, under mulch.
    pub depth: Length,
}

/// Soils as far as drip goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Texture {
    Sand,
    Loam,
    Clay,
}

impl Texture {
    pub fn of(soil: Soil) -> Self {
        match soil {
            Soil::Sand | Soil::LoamySand => Self::Sand,
            Soil::SiltLoam | Soil::Loam | Soil::SandyLoam => Self::Loam,
            Soil::Clay | Soil::SiltyClay | Soil::ClayLoam => Self::Clay,
        }
    }
}

/// Drip of a kind for an area: wide and slow on clay, close and fast on sand; a slower emitter where the
/// ground falls; lawns have their rows 4 in deep and no wider than 18 in; vegetable rows take tape.
///
/// # Source
/// Emitter, emitter spacing and row spacing by soil, as practised; in whole 5 cm where the job is metric.
pub fn choose(catalogue: &Catalogue, area: &Area, kind: Kind, units: UnitSystem) -> Option<Choice> {
    let texture = Texture::of(area.soil);
    let steep = area.slope_percent >= super::ground::CONTOUR_FROM_PERCENT;
    let (gph, emitters_in, rows_in) = match (texture, kind) {
        (_, Kind::Tape) => (0.3, 8.0, 12.0),
        (Texture::Sand, Kind::Emitter) => (2.0, 12.0, 12.0),
        (Texture::Loam, Kind::Emitter) => (1.0, 18.0, 18.0),
        (Texture::Clay, Kind::Emitter) => (0.5, 18.0, 18.0),
        (Texture::Sand, _) => (if steep { 0.6 } else { 0.9 }, 12.0, 12.0),
        (Texture::Loam, _) => (if steep { 0.4 } else { 0.6 }, 18.0, 16.0),
        (Texture::Clay, _) => (0.26, 18.0, 18.0),
    };
    // Roots of turf are shallow: dry streaks would show.
    let emitters_in = if area.kind == AreaKind::Lawn && kind == Kind::Dripline { 12.0 } else { emitters_in };
    let want = gph / 60.0;
    let off = |n: &&Nozzle| (n.flow.gpm() - want).abs();
    let usual = catalogue.nozzles.iter().filter(|n| n.kind == kind && n.tube.is_none());
    // What is on the truck comes first where it gives nearly the same.
    let near = usual.clone().filter(|n| n.favourite && off(n) <= want * 0.35);
    let best = near.min_by(|a, b| off(a).total_cmp(&off(b)));
    let best = best.or_else(|| usual.min_by(|a, b| off(a).total_cmp(&off(b))))?;
    let depth = match area.kind {
        AreaKind::Lawn => whole(4.0, units),
        _ => Length::ZERO,
    };
    Some(Choice {
        nozzle: best.id.clone(),
        emitter_spacing: whole(emitters_in, units),
        row_spacing: whole(rows_in, units),
        depth,
    })
}

/// Inches as they are, or the nearest 5 cm below or above: 12, 16, 18 in are 30, 40, 45 cm.
fn whole(inches: f64, units: UnitSystem) -> Length {
    let exact = Length::from_in(inches);
    if units.is_metric() { Length::from_m((exact.m() * 20.0).round() / 20.0) } else { exact }
}

/// How far rows keep off an edge where nobody says: 3 in, or 8 cm.
pub(super) fn usual_edge(units: UnitSystem) -> Length {
    if units.is_metric() { Length::from_m(0.08) } else { Length::from_in(3.0) }
}

/// Least radius that a tube is bent to by hand: about 9 in for a 17 mm line, 6 in for half-inch poly, 2 in
/// for micro tube, 12 in for what is wider. Below that it takes an elbow.
pub fn least_bend(inside: Length) -> Length {
    let inches = match inside.inches() {
        d if d < 0.3 => 2.0,
        d if d < 0.57 => 9.0,
        d if d < 0.61 => 6.0,
        _ => 12.0,
    };
    Length::from_in(inches)
}
