use crate::StoreError;
use fenlo_store::{Store, THIS_COMPANY, Taking};

/// Made-up jobs, in the open job format; the newest is listed first.
pub const DEMO: [(&str, &str); 4] = [
    ("bowls-green", include_str!("../demo/bowls-green.json")),
    ("veterinary-clinic", include_str!("../demo/veterinary-clinic.json")),
    ("courtyard", include_str!("../demo/courtyard.json")),
    ("corner-plot", include_str!("../demo/corner-plot.json")),
];

/// Made-up prices of two suppliers for what the demo jobs need.
const PRICES: &str = include_str!("../demo/prices.csv");

/// Loads the demo jobs and prices, once for each database; how many jobs were loaded.
///
/// # Panics
/// The built-in prices do not read.
///
/// # Errors
/// The database is away.
pub async fn load_demo(store: &Store) -> Result<usize, StoreError> {
    let ours = store.scope(THIS_COMPANY);
    if store.once("demo prices").await? && ours.suppliers().await?.is_empty() {
        let book = fenlo_formats::read_prices(PRICES.as_bytes());
        let book = book.unwrap_or_else(|faults| panic!("the demo prices are invalid: {faults:?}"));
        ours.take_prices(&book, Taking::Beside).await?;
    }
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
