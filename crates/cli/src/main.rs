//! The command `fenlo`.

mod args;
mod backup;
mod commands;
mod config;
mod io;
mod parts;
mod propose;
mod quick;
mod reader;
mod report;
mod rows;
mod times;

use clap::Parser;
use fenlo_web::LogFormat;
use std::process::ExitCode;
use tracing_subscriber::Layer;
use tracing_subscriber::filter::Targets;
use tracing_subscriber::layer::SubscriberExt;
use tracing_subscriber::util::SubscriberInitExt;

#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Exit code for input that can't be used; one line per fault on standard error.
const BAD_INPUT: u8 = 2;
/// Exit code of a check that found what must be mended before anything is dug.
const STOPS: u8 = 3;

fn main() -> ExitCode {
    let args = args::Args::parse();
    log(&args);
    match commands::run(args) {
        Ok(()) => ExitCode::SUCCESS,
        Err(error) if error.is::<io::Stopped>() => ExitCode::from(STOPS),
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

/// Lines to standard error, as the configuration has them; one that can't be read is told by the command
/// itself.
fn log(args: &args::Args) {
    let file = match &args.command {
        args::Command::Serve { config, .. } => config.as_deref(),
        _ => None,
    };
    let config = config::load(file).unwrap_or_default();
    let usual = || Targets::new().with_default(tracing_subscriber::filter::LevelFilter::INFO);
    let wanted: Targets = config.log.parse().unwrap_or_else(|_| usual());
    let lines = tracing_subscriber::fmt::layer().with_writer(std::io::stderr);
    let registry = tracing_subscriber::registry();
    match config.log_format {
        LogFormat::Text => registry.with(lines.with_filter(wanted)).init(),
        LogFormat::Json => registry.with(lines.json().with_filter(wanted)).init(),
    }
}
