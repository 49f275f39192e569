//! Typed quantities. Inside, one metric unit each; US and metric only where people read or type.
//!
//! | type | inside | people see (US / metric) |
//! |---|---|---|
//! | [`Pressure`] | kPa | psi / kPa, bar |
//! | [`Flow`] | L/min | gpm, gph / L/min, L/h, m3/h |
//! | [`Length`] | m | ft, in / m, mm |
//! | [`Surface`] | m2 | ft2 / m2 |
//! | [`Speed`] | m/s | ft/s / m/s |
//! | [`Rate`] | mm/h | in/h / mm/h |
//! | [`Volume`] | L | gal / L |
//! | [`Minutes`] | min | min, s |
//!
//! In files a quantity is text with its unit (`"62 psi"`): unambiguous, typed by hand without a
//! manual, and read back to the same bits.
//!
//! # Source
//! Exact factors: BIPM SI brochure (2019) and NIST SP 811 (2008) appendix B: 1 in = 25.4 mm,
//! 1 US gal = 3.785411784 L, 1 lbf/in2 = 6.894757293168 kPa.

mod parse;
mod show;

pub use parse::QuantityError;
pub use show::{UnitSystem, grouped};

/// kPa in one psi.
pub const KPA_PER_PSI: f64 = 6.894_757_293_168;
/// kPa in one bar.
pub const KPA_PER_BAR: f64 = 100.0;
/// L/min in one US gallon a minute.
pub const LPM_PER_GPM: f64 = 3.785_411_784;
/// Metres in one foot.
pub const M_PER_FT: f64 = 0.3048;
/// Metres in one inch.
pub const M_PER_IN: f64 = 0.0254;
/// Share of a limit that is rounding: the one tolerance by which figures are held against limits.
const ROUNDED: f64 = 1e-3;
/// kPa of water standing one metre high (standard gravity, 1000 kg/m3).
pub const KPA_PER_M: f64 = 9.806_65;

/// One unit that people may write after a number: its spellings and its size in the inner unit.
pub(crate) struct Unit {
    pub spellings: &'static [&'static str],
    pub factor: f64,
}

macro_rules! quantity {
    (
        $(#[$doc:meta])* $name:ident, $what:literal, $inner:ident, $from:ident,
        [$(($($spelling:literal)|+, $factor:expr)),+], $example:literal
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default)]
        pub struct $name(f64);

        impl $name {
            /// Nothing of it.
            pub const ZERO: Self = Self(0.0);
            /// The quantity from its inner unit (see the module's table).
            pub const fn $from(value: f64) -> Self { Self(value) }
            /// The value in the inner unit.
            pub const fn $inner(self) -> f64 { self.0 }
            /// The smaller of two.
            pub fn min(self, other: Self) -> Self { Self(self.0.min(other.0)) }
            /// The larger of two.
            pub fn max(self, other: Self) -> Self { Self(self.0.max(other.0)) }
            /// Whether it is at least so much, to a thousandth: what is shown as the limit is no less than it.
            pub fn reaches(self, least: Self) -> bool { self.0 >= least.0 - least.0.abs() * ROUNDED }
            /// Whether it is more than so much by over a thousandth.
            pub fn exceeds(self, most: Self) -> bool { self.0 > most.0 + most.0.abs() * ROUNDED }
            pub(crate) const UNITS: &'static [Unit] = &[$(Unit { spellings: &[$($spelling),+], factor: $factor }),+];
            pub(crate) const WHAT: &'static str = $what;
            pub(crate) const EXAMPLE: &'static str = $example;
        }
        impl std::ops::Add for $name { type Output = Self; fn add(self, o: Self) -> Self { Self(self.0 + o.0) } }
        impl std::ops::Sub for $name { type Output = Self; fn sub(self, o: Self) -> Self { Self(self.0 - o.0) } }
        impl std::ops::Neg for $name { type Output = Self; fn neg(self) -> Self { Self(-self.0) } }
        impl std::ops::Mul<f64> for $name { type Output = Self; fn mul(self, k: f64) -> Self { Self(self.0 * k) } }
        impl std::ops::Div<f64> for $name { type Output = Self; fn div(self, k: f64) -> Self { Self(self.0 / k) } }
        impl std::ops::Div for $name { type Output = f64; fn div(self, o: Self) -> f64 { self.0 / o.0 } }
        impl std::iter::Sum for $name { fn sum<I: Iterator<Item = Self>>(i: I) -> Self { Self(i.map(|v| v.0).sum()) } }
        impl std::str::FromStr for $name {
            type Err = QuantityError;
            /// Reads a number with its unit; a bare number is refused.
            fn from_str(text: &str) -> Result<Self, QuantityError> {
                parse::parse(text, Self::WHAT, Self::EXAMPLE, Self::UNITS, None).map(Self)
            }
        }
        impl serde::Serialize for $name {
            fn serialize<S: serde::Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
                s.serialize_str(&show::exact(self.0, Self::UNITS))
            }
        }
        impl<'de> serde::Deserialize<'de> for $name {
            fn deserialize<D: serde::Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
                let text = String::deserialize(d)?;
                text.parse().map_err(serde::de::Error::custom)
            }
        }
        impl schemars::JsonSchema for $name {
            fn schema_name() -> std::borrow::Cow<'static, str> { stringify!($name).into() }
            fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
                schemars::json_schema!({
                    "type": "string",
                    "description": concat!("a ", $what, " with its unit"),
                    "examples": [$example]
                })
            }
        }
    };
}

quantity! {
    /// Gauge pressure, or a difference of pressures.
    Pressure, "pressure", kpa, from_kpa,
    [("psi" | "lb/in2", KPA_PER_PSI), ("kPa" | "kpa", 1.0), ("bar", KPA_PER_BAR)], "62 psi"
}
quantity! {
    /// Volume flow.
    Flow, "flow", lpm, from_lpm,
    [("gpm" | "gal/min", LPM_PER_GPM), ("L/min" | "l/min" | "lpm", 1.0), ("gph" | "gal/h", LPM_PER_GPM / 60.0),
     ("L/h" | "l/h" | "lph", 1.0 / 60.0), ("m3/h" | "m³/h", 1000.0 / 60.0)], "12.5 gpm"
}
quantity! {
    /// A length, a height or a diameter.
    Length, "length", m, from_m,
    [
        ("ft" | "foot" | "feet" | "'", M_PER_FT), ("in" | "inch" | "inches" | "\"", M_PER_IN),
        ("m", 1.0), ("mm", 0.001), ("cm", 0.01)
    ],
    "7 ft 6 in"
}
quantity! {
    /// A piece of ground.
    Surface, "area", m2, from_m2,
    [("ft2" | "ft²" | "sqft", M_PER_FT * M_PER_FT), ("m2" | "m²", 1.0)], "1540 ft2"
}
quantity! {
    /// The mean velocity of water in a pipe.
    Speed, "velocity", mps, from_mps,
    [("ft/s" | "fps", M_PER_FT), ("m/s", 1.0)], "5 ft/s"
}
quantity! {
    /// Precipitation or application rate: depth of water a time.
    Rate, "rate", mmph, from_mmph,
    [("in/h" | "iph", 25.4), ("mm/h", 1.0)], "1.6 in/h"
}
quantity! {
    /// A volume of water.
    Volume, "volume", litres, from_litres,
    [("gal", LPM_PER_GPM), ("L" | "l", 1.0), ("m3" | "m³", 1000.0)], "5 gal"
}
quantity! {
    /// A duration.
    Minutes, "time", minutes, from_minutes,
    [("min", 1.0), ("s" | "sec", 1.0 / 60.0), ("h", 60.0)], "22 s"
}

impl Pressure {
    /// From pounds-force a square inch.
    pub fn from_psi(psi: f64) -> Self {
        Self(psi * KPA_PER_PSI)
    }
    /// In pounds-force a square inch.
    pub fn psi(self) -> f64 {
        self.0 / KPA_PER_PSI
    }
    /// The pressure of standing water of this height, kPa; negative below.
    pub fn of_height(height: Length) -> Self {
        Self(height.m() * KPA_PER_M)
    }
}

impl Flow {
    /// Whether it lies within a band, to a thousandth at its ends.
    pub fn is_within(self, least: Self, most: Self) -> bool {
        self.reaches(least) && !self.exceeds(most)
    }
    /// From US gallons a minute.
    pub fn from_gpm(gpm: f64) -> Self {
        Self(gpm * LPM_PER_GPM)
    }
    /// In US gallons a minute.
    pub fn gpm(self) -> f64 {
        self.0 / LPM_PER_GPM
    }
    /// What a round pipe carries at a mean velocity: Q = v pi d2 / 4.
    pub fn at_speed(inside: Length, speed: Speed) -> Self {
        Self(speed.mps() * 60_000.0 * std::f64::consts::PI * inside.m() * inside.m() / 4.0)
    }
}

impl Length {
    /// From feet.
    pub fn from_ft(ft: f64) -> Self {
        Self(ft * M_PER_FT)
    }
    /// From inches.
    pub fn from_in(inches: f64) -> Self {
        Self(inches * M_PER_IN)
    }
    /// In feet.
    pub fn ft(self) -> f64 {
        self.0 / M_PER_FT
    }
    /// In inches.
    pub fn inches(self) -> f64 {
        self.0 / M_PER_IN
    }
    /// In millimetres.
    pub fn mm(self) -> f64 {
        self.0 * 1000.0
    }
}

impl Volume {
    /// From US gallons.
    pub fn from_gal(gal: f64) -> Self {
        Self(gal * LPM_PER_GPM)
    }
    /// In US gallons.
    pub fn gal(self) -> f64 {
        self.0 / LPM_PER_GPM
    }
}

impl Speed {
    /// In feet a second.
    pub fn fps(self) -> f64 {
        self.0 / M_PER_FT
    }
    /// From feet a second.
    pub fn from_fps(fps: f64) -> Self {
        Self(fps * M_PER_FT)
    }
    /// Mean velocity of a flow in a round pipe: v = Q / (pi d2 / 4).
    ///
    /// # Units
    /// `inside` > 0; the sign of the flow is kept.
    ///
    /// # Source
    /// Continuity; 0.4085 Q / d² in ft/s, gpm and inches.
    ///
    /// # Example
    /// 13 gpm in 1.049 in: 4.83 ft/s.
    pub fn in_pipe(flow: Flow, inside: Length) -> Self {
        Self(flow.lpm() / 60_000.0 / (std::f64::consts::PI * inside.m() * inside.m() / 4.0))
    }
}

#[cfg(test)]
mod tests;
