//! What hands put into the list of parts: it survives every redesign.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Lines by hand.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartsBought {
    /// Lines that hands added, and quantities that hands said.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub lines: Vec<PartLine>,
}

/// A line by hand: a part that the plan does not count, or another quantity of one that it does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartLine {
    /// Stable name in the file.
    pub id: String,
    /// The counted part whose quantity is said here; none: a line of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// For people; for a counted part a note why.
    #[serde(default)]
    pub text: String,
    /// How many.
    pub quantity: f64,
    /// Of what: each, ft, m, bag.
    #[serde(default)]
    pub unit: String,
}

impl PartsBought {
    /// Nothing was said.
    pub fn is_blank(&self) -> bool {
        self.lines.is_empty()
    }
    /// What was said of a counted part.
    pub fn of(&self, part: &str) -> Option<&PartLine> {
        self.lines.iter().find(|l| l.part.as_deref() == Some(part))
    }
    /// Lines that the plan does not count.
    pub fn own(&self) -> impl Iterator<Item = &PartLine> {
        self.lines.iter().filter(|l| l.part.is_none())
    }
}
