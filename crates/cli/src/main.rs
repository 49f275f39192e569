//! The command `fenlo`.

mod args;
mod commands;
mod io;
mod quick;
mod report;

use clap::Parser;
use std::process::ExitCode;

/// Exit code for input that can't be used; one line per fault on standard error.
const BAD_INPUT: u8 = 2;

fn main() -> ExitCode {
    tracing_subscriber::fmt()
        .with_env_filter(
            tracing_subscriber::EnvFilter::try_from_default_env().unwrap_or_else(|_| "info,sqlx=warn".into()),
        )
        .with_writer(std::io::stderr)
        .init();
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
