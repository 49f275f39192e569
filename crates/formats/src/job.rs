use crate::error::{ReadError, from_json};
use fenlo_core::job::Job;
use fenlo_core::plan::Plan;

/// Largest job file, bytes: a job of five thousand heads takes a hundredth of it.
const MOST_BYTES: usize = 5_000_000;

/// Reads a job file and checks it whole.
///
/// # Errors
/// Every fault with its path in the file, e.g. `groups[0].spacing: must be more than zero`.
pub fn read_job(bytes: &[u8]) -> Result<Job, ReadError> {
    let job = Job::new(from_json(bytes, MOST_BYTES)?);
    let faults = job.faults();
    if faults.is_empty() { Ok(job) } else { Err(ReadError(faults)) }
}

/// Writes a job file: the same plan always gives the same text.
pub fn write_job(plan: &Plan) -> String {
    serde_json::to_string_pretty(plan).expect("a plan is plain data") + "\n"
}

/// The JSON Schema of job files, generated from the types.
pub fn job_schema() -> String {
    serde_json::to_string_pretty(&schemars::schema_for!(Plan)).expect("a schema is plain data") + "\n"
}
