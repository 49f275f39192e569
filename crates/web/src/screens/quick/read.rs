//! The quick check as it is typed: the question's own form, which the command line reads too.

use crate::fields::Pairs;
use fenlo_core::job::Job;
use fenlo_core::quick::{Bare, Field, FieldFault, Form as QuestionForm};

/// What was typed within limits; where nothing was, the usual.
pub fn filled(query: Pairs) -> Pairs {
    if query.is_empty() {
        let usual = |f: &Field| (f.name.to_owned(), f.usual.to_owned());
        return QuestionForm::FIELDS.iter().map(usual).collect();
    }
    let short = |(field, value): (String, String)| (field, value.chars().take(100).collect());
    query.into_iter().take(30).map(short).collect()
}

/// The job that the form asks about, or its faults at their fields.
pub fn question(pairs: &Pairs) -> Result<Job, Vec<FieldFault>> {
    let values = |field: &str| pairs.iter().filter(|p| p.0 == field).map(|p| p.1.clone()).collect();
    QuestionForm { values: &values, bare: Bare::Taken }.read()
}
