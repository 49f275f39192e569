//! The command `fenlo`.

mod args;
mod commands;
mod io;
mod parts;
mod propose;
mod quick;
mod report;
mod rows;
mod times;

use clap::Parser;
use std::process::ExitCode;
use tracing_subscriber::filter::Targets;
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

/// Exit code for input that can't be used; one line per fault on standard error.
const BAD_INPUT: u8 = 2;

fn main() -> ExitCode {
    let lines = tracing_subscriber::fmt::layer().with_writer(std::io::stderr);
    tracing_subscriber::registry().with(lines).with(logged()).init();
    match commands::run(args::Args::parse()) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) if error.is::<io::BadInput>() => {
            eprintln!("{error}");
            ExitCode::from(BAD_INPUT)
        }
        Err(error) => {
            eprintln!("fenlo: {error:#}");
            ExitCode::FAILURE
        }
    }
}

/// What goes to the log: as `RUST_LOG` says (`info,fenlo_web=debug`), else what matters to who runs it.
fn logged() -> Targets {
    let usual = "info,sqlx=warn";
    let said = std::env::var("RUST_LOG").ok().and_then(|text| text.parse().ok());
    said.unwrap_or_else(|| usual.parse().expect("the usual filter is sound"))
}
