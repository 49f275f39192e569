//! The helper that reads one foreign file: standard input in, what is handed over out. It bounds itself
//! before it looks at a byte, and is stopped by whoever began it when its time is over.

use anyhow::{Context, Result, bail};
use fenlo_formats::foreign::{Foreign, Limits, MOST_HANDED, Told, read_foreign};
use rustix::process::{Resource, Rlimit, setrlimit};
use std::io::{Read, Write};
use std::os::unix::process::CommandExt;
use std::process::Command;

/// Nested things in a file are read by calls within calls.
const STACK: usize = 32 << 20;
/// Exit code where the file is refused: what is wrong stands on standard output.
const REFUSED: i32 = 3;
/// What tells the allocator, by 0, to take no addresses ahead of need.
const RESERVE: &str = "MIMALLOC_ARENA_RESERVE";

/// Reads the file; exits with 3 where it is refused.
pub fn run(kind: &str, name: &str, page: usize) -> Result<()> {
    let kind = Foreign::parse(kind).context("drawing, picture, job, prices, chart or climate")?;
    let limits = kind.limits();
    begin_sparing()?;
    bound(limits)?;
    // A panic is a fault of the file: one line, no trace of ours.
    std::panic::set_hook(Box::new(|_| eprintln!("the reader gave up")));
    let mut bytes = Vec::new();
    std::io::stdin().lock().take(limits.file as u64 + 1).read_to_end(&mut bytes).context("standard input")?;
    if bytes.len() > limits.file {
        let most = limits.file / 1_000_000;
        return refuse(&Told::of_file(format!("is larger than {most} MB")));
    }
    let name = name.to_owned();
    let reading = std::thread::Builder::new()
        .stack_size(STACK)
        .spawn(move || read_foreign(kind, &name, page, bytes))?;
    match reading.join() {
        Ok(Ok(handed)) => write(&handed),
        Ok(Err(told)) => refuse(&told),
        Err(_) => bail!("the reader gave up"),
    }
}

/// Begins anew with an allocator that takes no gigabyte of addresses ahead: the bound on memory counts them.
fn begin_sparing() -> Result<()> {
    if std::env::var_os(RESERVE).is_some_and(|told| told == "0") {
        return Ok(());
    }
    let mut anew = Command::new(std::env::current_exe()?);
    let cause = anew.args(std::env::args_os().skip(1)).env(RESERVE, "0").exec();
    Err(cause).context("the reader cannot start")
}

/// Memory, processor time, files and dumps of this process, for good.
fn bound(limits: Limits) -> Result<()> {
    let set = |what, most| {
        let both = Rlimit { current: Some(most), maximum: Some(most) };
        setrlimit(what, both).context("the reader cannot set its limits")
    };
    set(Resource::As, limits.memory)?;
    set(Resource::Cpu, limits.seconds)?;
    set(Resource::Fsize, MOST_HANDED as u64)?;
    set(Resource::Core, 0)?;
    set(Resource::Nofile, 16)
}

fn write(bytes: &[u8]) -> Result<()> {
    let mut out = std::io::stdout().lock();
    out.write_all(bytes)?;
    Ok(out.flush()?)
}

fn refuse(told: &[Told]) -> Result<()> {
    write(&serde_json::to_vec(told)?)?;
    std::process::exit(REFUSED)
}
