use crate::args::{Args, Command, Format};
use crate::io::{BadInput, Stopped, open_store, print, read, stream};
use crate::times::this_year;
use crate::{backup, config, parts, propose, quick, reader, report, rows, times};
use anyhow::{Context, Result};
use fenlo_core::assess::{area_reports, assess};
use fenlo_core::network::solve;
use fenlo_core::verdict::Verdict;
use fenlo_formats::{job_schema, read_job, read_network, write_result};
use fenlo_standins::{controller, weather};
use std::time::Instant;

pub fn run(args: Args) -> Result<()> {
    match args.command {
        Command::Solve { file, timings } => {
            let began = Instant::now();
            let network = read_network(&read(&file)?).map_err(BadInput::from)?;
            let read = began.elapsed();
            let solution = solve(&network).map_err(BadInput::from)?;
            let solved = began.elapsed();
            stream(|out| write_result(&network, &solution, out))?;
            let written = began.elapsed();
            if timings {
                let (read, solve, write) = (read, solved - read, written - solved);
                eprintln!(
                    "read {} us, solve {} us, write {} us",
                    read.as_micros(),
                    solve.as_micros(),
                    write.as_micros()
                );
            }
            Ok(())
        }
        Command::Check { file, format } => {
            let job = read_job(&read(&file)?).map_err(BadInput::from)?;
            let assessment = assess(&job);
            let areas = area_reports(&job, &assessment.solved_heads());
            let verdict = Verdict::with_areas(&job, &assessment, this_year(), &areas);
            let checked = report::Checked { job: &job, known: &assessment, areas: &areas, verdict: &verdict };
            print(&match format {
                Format::Text => report::text(&checked),
                Format::Json => report::json(&checked),
            })?;
            if verdict.total().stop > 0 { Err(Stopped.into()) } else { Ok(()) }
        }
        Command::Quick(args) => quick::run(&args),
        Command::Propose(args) => propose::run(&args),
        Command::Rows(args) => rows::run(&args),
        Command::Times(args) => times::run(&args),
        Command::Parts(args) => parts::run(&args),
        Command::Quote(args) => parts::run_quote(&args),
        Command::Packet(args) => block_on(async move { parts::run_packet(&args).await }),
        Command::Weather { station, year, seed } => {
            let table = fenlo_core::climate::stations();
            let Some(name) = station else {
                let names: Vec<&str> = table.iter().map(|s| s.name.as_str()).collect();
                return print(&(names.join("\n") + "\n"));
            };
            let station = table.iter().find(|s| s.name.eq_ignore_ascii_case(&name));
            let station = station.ok_or_else(|| {
                let names: Vec<&str> = table.iter().map(|s| s.name.as_str()).collect();
                BadInput::from(format!("unknown climate station ‘{name}’. Available: {}", names.join(", ")))
            })?;
            print(&weather::csv(&weather::days(station, year, seed)))
        }
        Command::Controller { listen } => block_on(async move {
            let listener = listen_on(listen).await?;
            print(&format!("A simulated controller: http://{}\n", listener.local_addr()?))?;
            axum::serve(listener, controller::router())
                .with_graceful_shutdown(stop_signal())
                .await
                .context("the controller stopped")
        }),
        Command::Reader { kind, name, page } => reader::run(&kind, &name, page),
        Command::Schema => print(&job_schema()),
        Command::Demo => block_on(async {
            let store = open_store(&config::load(None)?).await?;
            let loaded = fenlo_web::load_demo(&store).await?;
            print(&format!("{loaded} demo jobs loaded\n"))
        }),
        Command::Backup { file, company } => block_on(backup::write(file, company)),
        Command::Restore { file } => block_on(backup::restore(file)),
        Command::Config { config } => print(&config::written(&config::load(config.as_deref())?)?),
        Command::Serve { config, listen, with_demo, controller } => block_on(async {
            let mut config = config::load(config.as_deref())?;
            config.listen = listen.unwrap_or(config.listen);
            config.controller = controller.or(config.controller);
            let store = open_store(&config).await?;
            if with_demo {
                fenlo_web::load_demo(&store).await?;
            }
            let listener = listen_on(config.listen).await?;
            print(&format!("Fenlo is running at http://{}\n", listener.local_addr()?))?;
            fenlo_web::serve_with(listener, store, &config, stop_signal()).await.context("the server stopped")
        }),
    }
}

async fn listen_on(address: std::net::SocketAddr) -> Result<tokio::net::TcpListener> {
    tokio::net::TcpListener::bind(address).await.with_context(|| format!("cannot listen on {address}"))
}

fn block_on(work: impl Future<Output = Result<()>>) -> Result<()> {
    tokio::runtime::Builder::new_multi_thread().enable_all().build()?.block_on(work)
}

async fn stop_signal() {
    let interrupt = tokio::signal::ctrl_c();
    let mut terminate = match tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
        Ok(signal) => signal,
        Err(_) => return interrupt.await.unwrap_or(()),
    };
    tokio::select! { _ = interrupt => {}, _ = terminate.recv() => {} }
}
