use crate::StoreError;
use fenlo_core::job::Job;
use fenlo_store::{Store, THIS_COMPANY};

/// Made-up jobs, in the open job format; the newest is listed first.
const JOBS: [(&str, &str); 3] = [
    ("bowls-green", include_str!("../demo/bowls-green.json")),
    (
        "veterinary-clinic",
        include_str!("../demo/veterinary-clinic.json"),
    ),
    ("corner-plot", include_str!("../demo/corner-plot.json")),
];

fn jobs() -> impl Iterator<Item = Job> {
    JOBS.iter().map(|(name, text)| {
        fenlo_formats::read_job(text.as_bytes()).unwrap_or_else(|e| panic!("demo job {name} is broken: {e}"))
    })
}

/// Loads the demo jobs, once for each database; how many were loaded.
///
/// # Errors
/// The database is away.
pub async fn load_demo(store: &Store) -> Result<usize, StoreError> {
    if !store.once("demo jobs").await? {
        return Ok(0);
    }
    let ours = store.scope(THIS_COMPANY);
    for job in jobs() {
        ours.create(job.plan()).await?;
    }
    Ok(JOBS.len())
}
