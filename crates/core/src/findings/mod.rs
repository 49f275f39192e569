//! Checks. Every finding has its arithmetic, its source, and remedies whose effect was computed by
//! solving the zone with them.

mod area;
mod remedy;
mod supply;
#[cfg(test)]
mod tests;
mod zone;

pub use area::area_findings;
pub use remedy::Remedy;
pub(crate) use supply::supply_findings;
pub(crate) use zone::zone_findings;

use crate::working::Working;

/// How much it matters.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// It won't work, or may hurt.
    Stop,
    /// It works badly.
    Fix,
    /// Keep an eye on it.
    Watch,
}

/// Something a check has to say.
#[derive(Debug, Clone, PartialEq)]
pub struct Finding {
    /// Stable name, e.g. `head-starved`.
    pub code: &'static str,
    /// How much it matters.
    pub severity: Severity,
    /// In a few words.
    pub title: String,
    /// In a sentence, with figures.
    pub text: String,
    /// The arithmetic.
    pub working: Working,
    /// What would mend it.
    pub remedies: Vec<Remedy>,
}
