use serde::Serialize;

/// The arithmetic of one figure, ready to be read: every number shown can be opened.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Working {
    /// The rule in symbols or words.
    pub formula: String,
    /// What stands for what, with units.
    pub with: Vec<(String, String)>,
    /// The result with its unit.
    pub result: String,
    /// Where the rule comes from: measured, calculated, usual practice, company standard, local code.
    pub source: String,
}

/// In the middle of a sentence: its first letter small, units as they are.
pub fn inside(text: &str) -> String {
    let mut letters = text.chars();
    let first = letters.next().map(|c| c.to_lowercase().to_string());
    first.unwrap_or_default() + letters.as_str()
}

/// As the beginning of a label: its first letter large.
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string());
    first.unwrap_or_default() + letters.as_str()
}

impl Working {
    /// Starts from the formula and its source.
    pub fn new(formula: impl Into<String>, source: impl Into<String>) -> Self {
        Self { formula: formula.into(), with: Vec::new(), result: String::new(), source: source.into() }
    }
    /// Names one figure that goes in.
    #[must_use]
    pub fn with(mut self, name: impl Into<String>, value: impl Into<String>) -> Self {
        self.with.push((name.into(), value.into()));
        self
    }
    /// Names what comes out.
    #[must_use]
    pub fn gives(mut self, result: impl Into<String>) -> Self {
        self.result = result.into();
        self
    }
}

/// A share as whole percent.
pub(crate) fn percent(share: f64) -> String {
    format!("{:.0}%", share * 100.0)
}
