use super::choose::Texture;
use crate::site::Soil;
use crate::units::{Flow, Length, Minutes, Rate, Surface, Volume};

/// Widths are known for so much, US gallons: 0.6 gal/h for an hour.
const KNOWN_GAL: f64 = 0.6;

/// Width that an emitter wets at the surface when it has given so much: about 10 in on sand, 18 in on loam
/// and 24 in on clay for 0.6 gal, growing with the square root of the volume. Planning figures.
pub fn wetted_width(soil: Soil, given: Volume) -> Length {
    let known = match Texture::of(soil) {
        Texture::Sand => 10.0,
        Texture::Loam => 18.0,
        Texture::Clay => 24.0,
    };
    Length::from_in(known * (given.gal().max(0.0) / KNOWN_GAL).sqrt())
}

/// Time after which an emitter wets so wide; the turned-round [`wetted_width`].
pub fn minutes_to_wet(soil: Soil, emitter: Flow, width: Length) -> Minutes {
    let known = wetted_width(soil, Volume::from_gal(KNOWN_GAL));
    let volume = KNOWN_GAL * (width / known).powi(2);
    Minutes::from_minutes(volume / emitter.gpm().max(1e-9))
}

/// Widest spacing of emitters and of rows that a soil carries, as practised: 12 and 12 in on sand, 18 and
/// 18 in on loam, 18 and 24 in on clay.
pub fn widest_spacing(soil: Soil) -> (Length, Length) {
    let (emitters, rows) = match Texture::of(soil) {
        Texture::Sand => (12.0, 12.0),
        Texture::Loam => (18.0, 18.0),
        Texture::Clay => (18.0, 24.0),
    };
    (Length::from_in(emitters), Length::from_in(rows))
}

/// Drip over ground by its area alone, as it is reckoned by hand.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FlatEstimate {
    /// Tube with emitters.
    pub tubing: Length,
    /// Emitters.
    pub emitters: f64,
    /// Flow.
    pub flow: Flow,
    /// Application rate.
    pub rate: Rate,
}

/// Tube = area / row spacing, emitters = tube / emitter spacing, rate = 231.1 gph / (row in x emitter in).
///
/// # Example
/// 264 ft2, rows 16 in, 0.6 gph every 18 in: 198 ft, 132 emitters, 1.32 gpm, 0.482 in/h (a test holds it).
pub fn estimate(area: Surface, rows: Length, emitters: Length, each: Flow) -> FlatEstimate {
    let tubing = Length::from_m(area.m2() / rows.m().max(1e-9));
    let count = tubing / emitters;
    FlatEstimate {
        tubing,
        emitters: count,
        flow: each * count,
        rate: Rate::from_mmph(each.lpm() * 60.0 / (rows.m() * emitters.m()).max(1e-12)),
    }
}
