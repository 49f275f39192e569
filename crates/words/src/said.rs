use crate::working::Working;
use fenlo_core::plan::Date;

/// A finding in words.
#[derive(Debug, Clone, PartialEq)]
pub struct Said {
    /// In a few words.
    pub title: String,
    /// In a sentence, with figures.
    pub text: String,
    /// The arithmetic.
    pub working: Working,
}

pub(crate) fn said(title: impl Into<String>, text: impl Into<String>, working: Working) -> Said {
    Said { title: title.into(), text: text.into(), working }
}

/// A count with its noun: `1 valve`, `3 valves`.
pub fn counted(n: usize, what: &str) -> String {
    format!("{n} {what}{}", if n == 1 { "" } else { "s" })
}

/// A count of things that are either: `1 head or row`, `3 heads or rows`.
pub fn counted_or(n: usize, what: &str, other: &str) -> String {
    let s = one(n, "", "s");
    format!("{n} {what}{s} or {other}{s}")
}

/// The form of a word that goes with a count: `one(1, "is", "are")`.
pub(crate) fn one<'w>(n: usize, single: &'w str, several: &'w str) -> &'w str {
    if n == 1 { single } else { several }
}

/// Names in a sentence: `Hedge`, `Hedge and Verge`, `Front, Hedge and Verge`.
pub(crate) fn in_a_row(names: &[&str]) -> String {
    match names {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}

/// A day as it is kept, `2026-07-03` with or without an hour behind it, within a sentence; anything else as
/// it is.
pub fn day_of(kept: &str) -> String {
    let date = kept.get(..10).and_then(|d| d.parse().ok());
    date.map_or_else(|| kept.to_owned(), |date| day(date) + &kept[10..])
}

/// A day within a sentence: `Jul 3, 2026`.
pub fn day(date: Date) -> String {
    let name = crate::month(date.month());
    format!("{} {}, {}", &name[..3], date.day_of_month(), date.year())
}
