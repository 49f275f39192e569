//! Writing quantities: exactly for files, with a sensible number of digits for people.

use super::{Flow, Length, Minutes, Pressure, Rate, Speed, Surface, Unit, Volume};

/// The units a job is read and typed in.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Default,
    serde::Serialize,
    serde::Deserialize,
    schemars::JsonSchema,
)]
#[serde(rename_all = "kebab-case")]
pub enum UnitSystem {
    /// psi, gpm, ft, in.
    #[default]
    Us,
    /// kPa, L/min, m, mm.
    Metric,
    /// bar, L/min, m, mm.
    MetricBar,
}

impl UnitSystem {
    /// Every one.
    pub const ALL: [Self; 3] = [Self::Us, Self::Metric, Self::MetricBar];

    /// By its word in files and forms, `us`, `metric` or `metric-bar`; anything else is US.
    pub fn named(word: &str) -> Self {
        match word.trim() {
            "metric" => Self::Metric,
            "metric-bar" => Self::MetricBar,
            _ => Self::Us,
        }
    }

    /// True but for feet and gallons.
    pub const fn is_metric(self) -> bool {
        !matches!(self, Self::Us)
    }
}

/// The shortest text that reads back to the same bits: the first unit in which at most four
/// decimals do, else the inner unit with all its digits.
pub(crate) fn exact(value: f64, units: &[Unit]) -> String {
    for unit in units {
        let text = trimmed(value / unit.factor, 4);
        if text.parse::<f64>().is_ok_and(|n| n.abs() * unit.factor == value.abs()) {
            return format!("{text} {}", unit.spellings[0]);
        }
    }
    let inner = units.iter().find(|u| u.factor == 1.0).map_or("", |u| u.spellings[0]);
    format!("{value} {inner}")
}

/// At most `decimals` decimals, without trailing zeros and without a negative zero.
pub(crate) fn trimmed(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}

/// So many decimals, thousands parted by commas, the minus sign of print, and zero as `0` whatever its
/// decimals.
fn fixed(value: f64, decimals: usize) -> String {
    let text = format!("{:.decimals$}", value.abs());
    if text.chars().all(|c| c == '0' || c == '.') {
        return "0".to_owned();
    }
    let sign = if value < 0.0 { "−" } else { "" };
    format!("{sign}{}", grouped(&text))
}

/// Digits with commas between thousands: `1234.5` is `1,234.5`. Takes digits with at most one point.
pub fn grouped(digits: &str) -> String {
    let whole = digits.find('.').unwrap_or(digits.len());
    let mut out = String::with_capacity(digits.len() + whole / 3);
    for (i, c) in digits.chars().enumerate() {
        if i > 0 && i < whole && (whole - i).is_multiple_of(3) {
            out.push(',');
        }
        out.push(c);
    }
    out
}

/// As people read it: at most so many decimals, no trailing zeros, commas and the minus sign of print.
fn short(value: f64, decimals: usize) -> String {
    let text = trimmed(value.abs(), decimals);
    let sign = if value < 0.0 && text != "0" { "−" } else { "" };
    format!("{sign}{}", grouped(&text))
}

impl Pressure {
    /// The value in the unit shown: psi, kPa or bar.
    pub fn value(self, system: UnitSystem) -> f64 {
        match system {
            UnitSystem::Us => self.psi(),
            UnitSystem::Metric => self.0,
            UnitSystem::MetricBar => self.0 / super::KPA_PER_BAR,
        }
    }
    /// The number alone, as shown: 0.1 psi, 1 kPa or 0.01 bar.
    pub fn number(self, system: UnitSystem) -> String {
        let decimals = match system {
            UnitSystem::Us => 1,
            UnitSystem::Metric => 0,
            UnitSystem::MetricBar => 2,
        };
        fixed(self.value(system), decimals)
    }
    /// The unit shown.
    pub fn unit(system: UnitSystem) -> &'static str {
        match system {
            UnitSystem::Us => "psi",
            UnitSystem::Metric => "kPa",
            UnitSystem::MetricBar => "bar",
        }
    }
    /// Number and unit, e.g. `41.3 psi`.
    pub fn show(self, system: UnitSystem) -> String {
        format!("{} {}", self.number(system), Self::unit(system))
    }
    /// For set points: no needless decimals.
    pub fn show_round(self, system: UnitSystem) -> String {
        let decimals = if system == UnitSystem::MetricBar { 2 } else { 0 };
        format!("{} {}", short(self.value(system), decimals), Self::unit(system))
    }
}

impl Flow {
    /// The number alone: 0.01 gpm, or L/min to 0.1 (0.01 below 10).
    pub fn number(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => fixed(self.gpm(), if self.gpm().abs() < 1.0 { 2 } else { 1 }),
            UnitSystem::Metric | UnitSystem::MetricBar => {
                fixed(self.0, if self.0.abs() < 10.0 { 2 } else { 1 })
            }
        }
    }
    /// The unit shown.
    pub fn unit(system: UnitSystem) -> &'static str {
        match system {
            UnitSystem::Us => "gpm",
            UnitSystem::Metric | UnitSystem::MetricBar => "L/min",
        }
    }
    /// Number and unit, e.g. `13.1 gpm`.
    pub fn show(self, system: UnitSystem) -> String {
        format!("{} {}", self.number(system), Self::unit(system))
    }
}

impl Length {
    /// A length on the ground: `12 ft`, `3.7 m`.
    pub fn show(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} ft", short(self.ft(), 1)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} m", short(self.0, 2)),
        }
    }
    /// A sum of lengths, to the foot or the meter: `1,382 ft`, `421 m`. Below ten as [`Self::show`].
    pub fn show_whole(self, system: UnitSystem) -> String {
        let (value, unit) = match system {
            UnitSystem::Us => (self.ft(), "ft"),
            UnitSystem::Metric | UnitSystem::MetricBar => (self.0, "m"),
        };
        if value.abs() < 10.0 {
            return self.show(system);
        }
        format!("{} {unit}", short(value, 0))
    }
    /// As water stands on the ground: `1.28 in`, `33 mm`.
    pub fn show_depth(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} in", fixed(self.inches(), 2)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} mm", fixed(self.mm(), 0)),
        }
    }
    /// A depth of water for a field of a form: `1.9 in`, `48.3 mm`.
    pub fn field_depth(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} in", trimmed(self.inches(), 2)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} mm", trimmed(self.mm(), 1)),
        }
    }
    /// As a tape reads: `12'6½"` to the quarter inch, `3.81 m` to the centimeter.
    pub fn show_tape(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => {
                let quarters = (self.inches().abs() * 4.0).round() as i64;
                let sign = if self.0 < 0.0 && quarters > 0 { "−" } else { "" };
                let (feet, inches, part) =
                    (quarters / 48, quarters % 48 / 4, ["", "¼", "½", "¾"][(quarters % 4) as usize]);
                match (feet, inches, part) {
                    (0, _, _) => format!(
                        "{sign}{}{part}\"",
                        if inches == 0 && !part.is_empty() { String::new() } else { inches.to_string() }
                    ),
                    (_, 0, "") => format!("{sign}{feet}'"),
                    _ => format!("{sign}{feet}'{inches}{part}\""),
                }
            }
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} m", fixed(self.0, 2)),
        }
    }
    /// A diameter: `0.930 in`, `26.0 mm`.
    pub fn show_bore(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{:.3} in", self.inches()),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{:.1} mm", self.mm()),
        }
    }
}

impl Surface {
    /// `1,540 ft²`, `143 m²`; a decimal below ten.
    pub fn show(self, system: UnitSystem) -> String {
        let (value, unit) = match system {
            UnitSystem::Us => (self.0 / (super::M_PER_FT * super::M_PER_FT), "ft²"),
            UnitSystem::Metric | UnitSystem::MetricBar => (self.0, "m²"),
        };
        format!("{} {unit}", fixed(value, if value.abs() < 10.0 { 1 } else { 0 }))
    }
}

impl Speed {
    /// `5.6 ft/s`, `1.70 m/s`.
    pub fn show(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} ft/s", fixed(self.fps(), 1)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} m/s", fixed(self.0, 2)),
        }
    }
}

impl Rate {
    /// `1.60 in/h`, `41 mm/h`.
    pub fn show(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} in/h", fixed(self.0 / 25.4, 2)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} mm/h", fixed(self.0, 1)),
        }
    }
}

impl Volume {
    /// `5.0 gal`, `20.0 L`.
    pub fn show(self, system: UnitSystem) -> String {
        match system {
            UnitSystem::Us => format!("{} gal", short(self.0 / super::LPM_PER_GPM, 2)),
            UnitSystem::Metric | UnitSystem::MetricBar => format!("{} L", short(self.0, 1)),
        }
    }
}

impl Minutes {
    /// Seconds below two minutes, minutes above.
    pub fn show(self, _: UnitSystem) -> String {
        if self.0 < 2.0 {
            format!("{} s", trimmed(self.0 * 60.0, 1))
        } else {
            format!("{} min", trimmed(self.0, 1))
        }
    }
}

/// What a field of a form holds: as much of the number as anybody types, so that saving the form
/// again changes nothing.
macro_rules! fields {
    ($($name:ident: $us:expr, $us_unit:literal, $metric:literal;)+) => {$(
        impl $name {
            /// Number and unit for a field of a form, to four decimals without trailing zeros.
            pub fn field(self, system: UnitSystem) -> String {
                match system {
                    UnitSystem::Us => format!("{} {}", trimmed(self.0 / $us, 4), $us_unit),
                    _ => format!("{} {}", trimmed(self.0, 4), $metric),
                }
            }
        }
    )+};
}
fields! {
    Flow: super::LPM_PER_GPM, "gpm", "L/min";
    Length: super::M_PER_FT, "ft", "m";
    Speed: super::M_PER_FT, "ft/s", "m/s";
    Volume: super::LPM_PER_GPM, "gal", "L";
    Surface: super::M_PER_FT * super::M_PER_FT, "ft2", "m2";
}

impl Pressure {
    /// Number and unit for a field of a form, to four decimals without trailing zeros.
    pub fn field(self, system: UnitSystem) -> String {
        format!("{} {}", trimmed(self.value(system), 4), Self::unit(system))
    }
}

impl Minutes {
    /// Number and unit for a field of a form.
    pub fn field(self, _: UnitSystem) -> String {
        if self.0 < 2.0 {
            format!("{} s", trimmed(self.0 * 60.0, 2))
        } else {
            format!("{} min", trimmed(self.0, 4))
        }
    }
}
