//! Everything in one file, and back.

use crate::config;
use crate::io::{BadInput, open_store, print};
use anyhow::{Context, Result};
use fenlo_web::Store;
use std::fs::{File, OpenOptions};
use std::io::{BufWriter, Write};
use std::os::unix::fs::OpenOptionsExt;
use std::path::PathBuf;

/// Writes a backup; the file has its name only once it is whole.
pub async fn write(file: PathBuf, company: Option<i64>) -> Result<()> {
    if file.exists() {
        return Err(BadInput::from(format!("{} is there already", file.display())));
    }
    let store = open_store(&config::load(None)?).await?;
    let mut part = file.clone().into_os_string();
    part.push(".part");
    let part = PathBuf::from(part);
    // Customers' names and prices: for its owner alone.
    let out = OpenOptions::new()
        .write(true)
        .create(true)
        .truncate(true)
        .mode(0o600)
        .open(&part)
        .with_context(|| format!("{}", part.display()))?;
    let mut out = BufWriter::new(out);
    let done = match company {
        Some(id) => store.scope(id).backup(&mut out).await,
        None => store.backup(&mut out).await,
    };
    let done = done.inspect_err(|_| {
        let _ = std::fs::remove_file(&part);
    })?;
    out.flush()?;
    out.into_inner().map_err(|e| e.into_error())?.sync_all()?;
    std::fs::rename(&part, &file)?;
    print(&format!("{} jobs, {} rows in {}\n", done.jobs, done.rows, file.display()))
}

/// Puts a backup back.
pub async fn restore(file: PathBuf) -> Result<()> {
    let config = config::load(None)?;
    anyhow::ensure!(!config.database_url.is_empty(), "DATABASE_URL is not set");
    File::open(&file).with_context(|| format!("{}", file.display()))?;
    let done = Store::restore(&config.database_url, || File::open(&file)).await?;
    print(&format!("{} jobs, {} rows put back\n", done.jobs, done.rows))
}
