//! What goes in and out: files, standard input and output, and input that can't be used.

use anyhow::Result;
use std::io::{BufWriter, Read, StdoutLock, Write};
use std::path::Path;

/// Input that can't be used: its text is one line per fault.
#[derive(Debug, thiserror::Error)]
#[error("{0}")]
pub struct BadInput(pub String);

/// A check that found what must be mended before anything is dug: it has been printed.
#[derive(Debug, thiserror::Error)]
#[error("the job has a Stop finding")]
pub struct Stopped;

impl BadInput {
    /// Wraps whatever explains the fault.
    pub fn from(error: impl ToString) -> anyhow::Error {
        anyhow::Error::new(Self(error.to_string()))
    }
}

/// A file; `-` for standard input.
pub fn read(file: &Path) -> Result<Vec<u8>> {
    let mut bytes = Vec::new();
    let result = if file == Path::new("-") {
        std::io::stdin().read_to_end(&mut bytes)
    } else {
        std::fs::File::open(file).and_then(|mut f| f.read_to_end(&mut bytes))
    };
    result.map(|_| bytes).map_err(|e| BadInput::from(format!("{}: {e}", file.display())))
}

/// Writes to standard output; a closed pipe (`| head`) is not an error.
pub fn print(text: &str) -> Result<()> {
    stream(|out| out.write_all(text.as_bytes()))
}

/// The same for what is made while it is written.
pub fn stream(write: impl FnOnce(&mut BufWriter<StdoutLock>) -> std::io::Result<()>) -> Result<()> {
    let mut out = BufWriter::new(std::io::stdout().lock());
    match write(&mut out).and_then(|()| out.flush()) {
        Err(e) if e.kind() == std::io::ErrorKind::BrokenPipe => Ok(()),
        other => Ok(other?),
    }
}

pub(crate) async fn open_store(config: &fenlo_web::Config) -> Result<fenlo_web::Store> {
    anyhow::ensure!(
        !config.database_url.is_empty(),
        "DATABASE_URL is not set: use ./start, which runs a database of its own"
    );
    Ok(fenlo_web::open_store(config).await?)
}
