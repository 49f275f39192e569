use crate::StoreError;
use fenlo_store::{Store, THIS_COMPANY};

/// Made-up jobs, in the open job format; the newest is listed first.
pub const DEMO: [(&str, &str); 4] = [
    ("bowls-green", include_str!("../demo/bowls-green.json")),
    (
        "veterinary-clinic",
        include_str!("../demo/veterinary-clinic.json"),
    ),
    ("courtyard", include_str!("../demo/courtyard.json")),
    ("corner-plot", include_str!("../demo/corner-plot.json")),
];

/// Loads the demo jobs, once for each database; how many were loaded.
///
/// # Errors
/// The database is away.
pub async fn load_demo(store: &Store) -> Result<usize, StoreError> {
    load_jobs(store, &DEMO).await
}

/// Loads job files by their names, once for each database; how many were loaded.
///
/// # Panics
/// A file is no sound job: these are files that are built in.
///
/// # Errors
/// The database is away.
pub async fn load_jobs(store: &Store, files: &[(&str, &str)]) -> Result<usize, StoreError> {
    if !store.once("demo jobs").await? {
        return Ok(0);
    }
    let ours = store.scope(THIS_COMPANY);
    for (name, text) in files {
        let job = fenlo_formats::read_job(text.as_bytes());
        let job = job.unwrap_or_else(|e| panic!("the job {name} is broken: {e}"));
        ours.create(job.plan()).await?;
    }
    Ok(files.len())
}
