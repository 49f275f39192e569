//! What is to be laid out, as it is typed.

use crate::choices::word;
use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::catalogue::Kind;
use fenlo_core::job::Job;
use fenlo_core::layout::{LAID_OUT, Proposal, lay_out, propose};
use fenlo_core::plan::Edit;
use fenlo_core::progress::Progress;

pub fn kind(f: &mut Fields) -> Kind {
    let text = f.text("kind");
    LAID_OUT.into_iter().find(|k| word(k) == text).unwrap_or_else(|| {
        f.fault("kind", "choose one from the list");
        Kind::Spray
    })
}

/// One kind laid out on one area.
pub fn laid(job: &Job, f: &mut Fields) -> Result<Edit, AppError> {
    let (area, kind) = (f.text("area"), kind(f));
    if !f.errors.is_empty() {
        return Err(AppError::Faults(Vec::new()));
    }
    match propose(job, &area, kind, &Progress::default()) {
        Ok(proposal) => Ok(lay_out(job, &proposal)),
        Err(fault) => f.stop(fenlo_words::layout_fault(&fault, job.units)),
    }
}

/// Some ways as one edit: one after the other, each on the plan as the one before leaves it, so
/// that names stay apart.
pub fn taken(job: &Job, ways: Vec<&Proposal>) -> Result<Edit, AppError> {
    let mut job = job.clone();
    let mut edits = Vec::new();
    for way in ways {
        let edit = lay_out(&job, way);
        job = job.apply(&edit).map_err(|e| AppError::Bad(e.to_string()))?.0;
        edits.push(edit);
    }
    Ok(Edit::batch(edits))
}
