//! Reading quantities as installers write them: `62 psi`, `1 1/2 in`, `7'6"`, `4,3 bar`.

use super::{Flow, Length, Minutes, Pressure, Rate, Speed, Surface, Unit, UnitSystem, Volume};

/// Why a text is not the quantity wanted; says what was expected.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum QuantityError {
    /// Nothing was written.
    #[error("enter {what} with its unit, such as {example}")]
    Empty {
        /// The quantity wanted.
        what: &'static str,
        /// How one is written.
        example: &'static str,
    },
    /// No number where one should stand.
    #[error("‘{given}’ is not a valid {what}. Enter a number with its unit, such as {example}")]
    NoNumber {
        /// What was given.
        given: String,
        /// The quantity wanted.
        what: &'static str,
        /// How one is written.
        example: &'static str,
    },
    /// A number without a unit where none can be assumed.
    #[error("‘{given}’ needs a unit: {units}. Example: {example}")]
    NoUnit {
        /// What was given.
        given: String,
        /// Units that it may have.
        units: String,
        /// How one is written.
        example: &'static str,
    },
    /// A unit that is not one of this quantity's.
    #[error("‘{unit}’ is not a unit of {what}. Use {units}")]
    UnknownUnit {
        /// The unit that was given.
        unit: String,
        /// The quantity wanted.
        what: &'static str,
        /// Units that it may have.
        units: String,
    },
    /// A bare number that the field's unit makes next to nothing, or far too much.
    #[error("‘{given}’ means {given} {unit}. Enter {instead}, or {given} {unit} to confirm")]
    Doubtful {
        /// What was given.
        given: String,
        /// The unit that a bare number has here.
        unit: &'static str,
        /// What may have been meant.
        instead: String,
    },
    /// A comma before three digits, where commas also part decimals.
    #[error("‘{given}’ could be {thousands} or {decimals}. Enter one of these")]
    TwoWays {
        /// The number as typed.
        given: String,
        /// Read with the comma between thousands.
        thousands: String,
        /// Read with the comma before decimals.
        decimals: String,
    },
}

const LONGEST: usize = 40;

/// Reads one or more (number, unit) pairs and adds them up; `bare` is the factor of a number
/// without a unit, `None` where the unit must be written.
pub(crate) fn parse(
    text: &str,
    what: &'static str,
    example: &'static str,
    units: &[Unit],
    bare: Option<f64>,
) -> Result<f64, QuantityError> {
    let text = text.trim();
    let given = || text.chars().take(LONGEST).collect::<String>();
    let no_number = || QuantityError::NoNumber { given: given(), what, example };
    if text.is_empty() {
        return Err(QuantityError::Empty { what, example });
    }
    if text.len() > LONGEST {
        return Err(no_number());
    }
    let (negative, mut rest) = match text.strip_prefix(['-', '−']) {
        Some(rest) => (true, rest.trim_start()),
        None => (false, text),
    };
    let mut total = 0.0;
    while !rest.is_empty() {
        let (number, after) = mixed_number(rest).ok_or_else(no_number)?;
        let after = after.trim_start();
        // `m3/h` and `ft2` hold a digit: such a unit is taken whole, also a wrong one that begins with m.
        let with_digit =
            units.iter().flat_map(|u| u.spellings).filter(|s| s.contains(|c: char| c.is_ascii_digit()));
        let whole = with_digit.filter(|s| {
            let tail = after.get(s.len()..);
            after.get(..s.len()).is_some_and(|start| start.eq_ignore_ascii_case(s))
                && tail.is_some_and(|t| !t.starts_with(|c: char| c.is_alphanumeric()))
        });
        let stop: fn(char) -> bool =
            if after.starts_with('m') { char::is_whitespace } else { |c| c.is_ascii_digit() };
        let end = whole.map(|s| s.len()).max();
        let end = end.unwrap_or_else(|| after.find(stop).unwrap_or(after.len()));
        let (word, tail) = after.split_at(end);
        let word = word.trim_end();
        rest = tail.trim_start();
        let factor = if word.is_empty() {
            // `7'6` means inches for the 6; otherwise a bare number takes the field's unit.
            let inches = total != 0.0 && units.iter().any(|u| u.spellings.contains(&"in"));
            if inches {
                super::M_PER_IN
            } else {
                bare.ok_or_else(|| QuantityError::NoUnit { given: given(), units: names(units), example })?
            }
        } else {
            units
                .iter()
                .find(|u| u.spellings.iter().any(|s| s.eq_ignore_ascii_case(word)))
                .ok_or_else(|| QuantityError::UnknownUnit {
                    unit: word.to_owned(),
                    what,
                    units: names(units),
                })?
                .factor
        };
        total += number * factor;
    }
    if !total.is_finite() {
        return Err(no_number());
    }
    Ok(if negative { -total } else { total })
}

/// `12`, `1.5`, `1,5`, `3/4`, `1 1/2`, `1-1/2` at the start of the text, and what follows.
fn mixed_number(text: &str) -> Option<(f64, &str)> {
    let (whole, rest) = decimal(text)?;
    if let Some(after) = rest.strip_prefix('/') {
        let (below, rest) = decimal(after)?;
        return (below > 0.0).then_some((whole / below, rest));
    }
    let gap = rest.trim_start_matches([' ', '-']);
    if gap.len() < rest.len()
        && let Some((above, after)) = decimal(gap)
        && let Some(after) = after.strip_prefix('/')
        && let Some((below, rest)) = decimal(after)
        && below > 0.0
    {
        return Some((whole + above / below, rest));
    }
    Some((whole, rest))
}

fn decimal(text: &str) -> Option<(f64, &str)> {
    let end = text.find(|c: char| !c.is_ascii_digit() && c != '.' && c != ',').unwrap_or(text.len());
    let number: f64 = text[..end].replace(',', ".").parse().ok()?;
    Some((number, &text[end..]))
}

fn names(units: &[Unit]) -> String {
    units.iter().map(|u| u.spellings[0]).collect::<Vec<_>>().join(", ")
}

/// Least and most of a bare pressure that is taken as it stands: under 1 psi or 10 kPa, and over 15 bar,
/// somebody thought of another unit. With its unit written anything is taken.
fn doubtful(text: &str, pressure: Pressure, system: UnitSystem) -> Option<QuantityError> {
    let given = text.trim();
    let bare = given.chars().all(|c| !c.is_alphabetic());
    let kpa = pressure.kpa().abs();
    let (unit, odd, other) = match system {
        UnitSystem::Us => ("psi", kpa < super::KPA_PER_PSI * 0.999, ["bar"].as_slice()),
        UnitSystem::Metric => ("kPa", kpa < 9.99, ["bar"].as_slice()),
        UnitSystem::MetricBar => ("bar", kpa > 1500.0, ["psi", "kPa"].as_slice()),
    };
    let instead: Vec<String> = other.iter().map(|o| format!("{given} {o}")).collect();
    (bare && odd && kpa > 0.0).then(|| QuantityError::Doubtful {
        given: given.to_owned(),
        unit,
        instead: instead.join(" or "),
    })
}

/// `1,234.5` and `12,345,678`: groups of three digits behind a first of one to three.
fn in_thousands(number: &str) -> bool {
    let (whole, decimals) = number.split_once('.').unwrap_or((number, ""));
    let mut groups = whole.split(',');
    let first = groups.next().unwrap_or_default();
    let digits = |s: &str| s.bytes().all(|b| b.is_ascii_digit());
    whole.contains(',')
        && (1..=3).contains(&first.len())
        && digits(first)
        && digits(decimals)
        && groups.all(|g| g.len() == 3 && digits(g))
}

/// Takes commas between thousands out. In US units a comma before three digits parts thousands; in metric
/// ones, where it may part decimals, a lone one is asked about.
fn without_thousands(text: &str, system: UnitSystem) -> Result<String, QuantityError> {
    let mut out = String::new();
    let mut rest = text;
    while let Some(start) = rest.find(|c: char| c.is_ascii_digit()) {
        let end = rest[start..]
            .find(|c: char| !c.is_ascii_digit() && c != '.' && c != ',')
            .map_or(rest.len(), |n| start + n);
        let number = &rest[start..end];
        out.push_str(&rest[..start]);
        let thousands = number.replace(',', "");
        if !in_thousands(number) {
            out.push_str(number);
        } else if system.is_metric() && number.matches(',').count() == 1 && !number.contains('.') {
            return Err(QuantityError::TwoWays {
                given: number.to_owned(),
                thousands,
                decimals: number.replace(',', "."),
            });
        } else {
            out.push_str(&thousands);
        }
        rest = &rest[end..];
    }
    out.push_str(rest);
    Ok(out)
}

impl Pressure {
    /// Reads what was typed into a field: a number alone takes the unit that the job's system shows
    /// there, but for one that is next to nothing or far too much in it: that is asked about.
    ///
    /// # Errors
    /// A [`QuantityError`] that names what is wrong and what is expected.
    pub fn typed(text: &str, system: UnitSystem) -> Result<Self, QuantityError> {
        let (bare, example) = match system {
            UnitSystem::Us => (super::KPA_PER_PSI, Self::EXAMPLE),
            UnitSystem::Metric => (1.0, "430 kPa"),
            UnitSystem::MetricBar => (super::KPA_PER_BAR, "4.3 bar"),
        };
        let text = &without_thousands(text, system)?;
        let read = parse(text, Self::WHAT, example, Self::UNITS, Some(bare)).map(Self)?;
        doubtful(text, read, system).map_or(Ok(read), Err)
    }
}

macro_rules! typed {
    ($($name:ident: $us:expr, $metric:expr, $bar:expr, $example:literal;)+) => {$(
        impl $name {
            /// Reads what was typed into a field: a number alone takes the unit that the job's
            /// system shows there.
            ///
            /// # Errors
            /// A [`QuantityError`] that names what is wrong and what is expected.
            pub fn typed(text: &str, system: UnitSystem) -> Result<Self, QuantityError> {
                let bare = match system {
                    UnitSystem::Us => $us,
                    UnitSystem::Metric => $metric,
                    UnitSystem::MetricBar => $bar,
                };
                let example = if system.is_metric() { $example } else { Self::EXAMPLE };
                let text = &without_thousands(text, system)?;
                parse(text, Self::WHAT, example, Self::UNITS, Some(bare)).map(Self)
            }
        }
    )+};
}
typed! {
    Flow: super::LPM_PER_GPM, 1.0, 1.0, "47 L/min";
    Length: super::M_PER_FT, 1.0, 1.0, "2.30 m";
    Speed: super::M_PER_FT, 1.0, 1.0, "1.5 m/s";
    Rate: 25.4, 1.0, 1.0, "40 mm/h";
    Volume: super::LPM_PER_GPM, 1.0, 1.0, "20 L";
    Minutes: 1.0, 1.0, 1.0, "12 min";
    Surface: super::M_PER_FT * super::M_PER_FT, 1.0, 1.0, "140 m2";
}
