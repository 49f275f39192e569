//! The process that reads one foreign file: our own binary, which bounds itself; ended when its time is over.

use fenlo_formats::foreign::{Foreign, MOST_HANDED, Told};
use std::fs::File;
use std::io;
use std::path::PathBuf;
use std::process::{ExitStatus, Stdio};
use std::time::Duration;
use tokio::io::AsyncReadExt;
use tokio::process::Command;

/// What is to be read, and how it was called.
#[derive(Debug, Clone)]
pub struct Ask {
    pub kind: Foreign,
    pub name: String,
    /// Page of a PDF, from 1.
    pub page: usize,
}

/// The exit code of a file that is refused.
const REFUSED: i32 = 3;

/// Where our binary is: as `FENLO_READER` says, this program, or beside it.
fn program() -> Option<PathBuf> {
    let this = std::env::current_exe().ok();
    let named = this.clone().filter(|p| p.file_stem().is_some_and(|s| s == "fenlo"));
    let folder = this.as_deref().and_then(|p| p.parent());
    let beside = folder.map(|f| f.join("fenlo"));
    // Test programs lie one folder deeper.
    let above = folder.and_then(|f| f.parent()).map(|f| f.join("fenlo"));
    let said = std::env::var_os("FENLO_READER").map(PathBuf::from);
    [said, named, beside, above].into_iter().flatten().find(|p| p.is_file())
}

/// Reads a file in a process of its own.
///
/// # Errors
/// What is wrong with the file, or which limit it went over; never what went wrong inside.
pub async fn read(ask: &Ask, file: File) -> Result<Vec<u8>, Vec<Told>> {
    let limits = ask.kind.limits();
    let deadline = Duration::from_secs(limits.seconds);
    match tokio::time::timeout(deadline, run(ask, file)).await {
        Err(_) => Err(Told::of_file(format!(
            "takes more than {} s to read and was stopped. Remove layers or data you do not need",
            limits.seconds
        ))),
        Ok(Err(cause)) => {
            tracing::error!(%cause, "the file reader cannot be started");
            Err(Told::of_file("cannot be read now; this is a fault in Fenlo"))
        }
        Ok(Ok(done)) => done,
    }
}

async fn run(ask: &Ask, file: File) -> io::Result<Result<Vec<u8>, Vec<Told>>> {
    let program = program().ok_or_else(|| io::Error::new(io::ErrorKind::NotFound, "no program ‘fenlo’"))?;
    let mut child = Command::new(program)
        .args(["reader", ask.kind.word(), "--page", &ask.page.to_string()])
        .arg(format!("--name={}", ask.name))
        .env_clear()
        .stdin(Stdio::from(file))
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .kill_on_drop(true)
        .spawn()?;
    let (mut handed, mut said) = (Vec::new(), Vec::new());
    if let (Some(out), Some(err)) = (child.stdout.take(), child.stderr.take()) {
        let (mut out, mut err) = (out.take(MOST_HANDED as u64 + 1), err.take(2_000));
        let (a, b) = tokio::join!(out.read_to_end(&mut handed), err.read_to_end(&mut said));
        a?;
        b?;
    }
    let status = child.wait().await?;
    if status.success() && handed.len() <= MOST_HANDED {
        return Ok(Ok(handed));
    }
    if status.code() == Some(REFUSED) {
        let told: Option<Vec<Told>> = serde_json::from_slice(&handed).ok();
        return Ok(Err(told.unwrap_or_else(|| Told::of_file("cannot be read"))));
    }
    let said = String::from_utf8_lossy(&said);
    tracing::warn!(%status, %said, kind = ask.kind.word(), "a file broke its reader");
    Ok(Err(Told::of_file(why(ask.kind, status, &said))))
}

/// Which limit a reader died of.
fn why(kind: Foreign, status: ExitStatus, said: &str) -> String {
    use std::os::unix::process::ExitStatusExt;
    let limits = kind.limits();
    if said.contains("memory allocation") || said.contains("out of memory") {
        let most = limits.memory / 1_000_000;
        return format!("needs more than {most} MB of memory. Remove layers or data you do not need");
    }
    match status.signal() {
        // SIGKILL and SIGXCPU: its processor time.
        Some(9 | 24) => format!(
            "takes more than {} s to read and was stopped. Remove layers or data you do not need",
            limits.seconds
        ),
        // SIGSEGV and SIGABRT: its stack.
        Some(6 | 11) => "is nested too deeply to read".to_owned(),
        _ => "cannot be read. Save it again from the program it came from".to_owned(),
    }
}
