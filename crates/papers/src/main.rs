//! The helper `fenlo-papers`: a request as JSON on standard input, a PDF on standard output, how far it is on
//! standard error.

use clap::Parser;
use fenlo_papers::{PaperError, Request, Stage, make_watched};
use std::io::{Read, Write};
use std::process::ExitCode;

/// A request is never larger.
const MOST_BYTES: u64 = 80_000_000;

/// Makes Fenlo's documents
#[derive(Parser)]
#[command(name = "fenlo-papers", version)]
struct Args {
    /// Read one request as JSON from standard input
    #[arg(long, required = true)]
    from_stdin: bool,
}

/// How far it is, a line each on standard error.
fn tell(stage: Stage) {
    eprintln!("stage {}", if stage == Stage::Written { "written" } else { "set" });
}

fn main() -> ExitCode {
    let _ = Args::parse();
    let mut body = Vec::new();
    let read = std::io::stdin().take(MOST_BYTES).read_to_end(&mut body);
    let request = read.map_err(|e| e.to_string()).and_then(|_| {
        serde_json::from_slice::<Request>(&body).map_err(|e| format!("that is no request: {e}"))
    });
    let made = request.map_err(PaperError::Asked).and_then(|r| make_watched(&r, tell));
    match made.and_then(|pdf| std::io::stdout().write_all(&pdf).map_err(|e| PaperError::Set(e.to_string()))) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) => {
            eprintln!("fenlo-papers: {error}");
            ExitCode::from(if matches!(error, PaperError::Asked(_)) { 2 } else { 1 })
        }
    }
}
