//! The helper that makes documents: a process of its own, so that its long build holds up nothing, and that
//! nothing it does can hold the server.

use fenlo_core::plan::Plan;
use fenlo_core::progress::Progress;
use serde::Serialize;
use serde_json::Value;
use std::path::PathBuf;
use std::process::Stdio;
use std::time::Duration;
use tokio::io::{AsyncBufReadExt, AsyncReadExt, AsyncWriteExt, BufReader};
use tokio::process::Command;
use tokio::sync::Semaphore;

/// Documents made at once, by this server.
static AT_ONCE: Semaphore = Semaphore::const_new(2);
/// Longer than any document takes, on a slow machine too.
const DEADLINE: Duration = Duration::from_secs(120);
/// A document is never larger.
const MOST_BYTES: u64 = 40_000_000;
/// What it says on the way is never longer.
const MOST_SAID: u64 = 100_000;

/// What is to be made.
#[derive(Serialize)]
pub struct Ask<'a> {
    /// packet, plan, order or quote.
    pub kind: &'a str,
    /// en or es.
    pub lang: &'a str,
    /// letter, a4, a3 or a1.
    pub paper: &'a str,
    /// The job.
    pub job: &'a Plan,
    /// What the plan does not know: prices.
    pub more: Value,
}

/// Why there is no document.
#[derive(Debug, thiserror::Error)]
pub enum NoPaper {
    /// The helper is still being built.
    #[error("Documents are not available yet. They become available a few minutes after Fenlo's first start")]
    NotReady,
    /// It was stopped.
    #[error("the document took too long and was stopped")]
    TooLong,
    /// The helper refused or broke; what it said.
    #[error("the document could not be created: {0}")]
    Refused(String),
}

/// Where the helper is.
pub struct Helper(PathBuf);

impl Helper {
    /// As `FENLO_PAPERS` says, else beside this program. None: it is not built yet.
    pub fn find() -> Option<Self> {
        let said = std::env::var_os("FENLO_PAPERS").map(PathBuf::from);
        let beside = || Some(std::env::current_exe().ok()?.parent()?.join("fenlo-papers"));
        // Test programs lie one folder deeper.
        let above = || Some(std::env::current_exe().ok()?.parent()?.parent()?.join("fenlo-papers"));
        [said, beside(), above()].into_iter().flatten().find(|p| p.is_file()).map(Self)
    }
}

/// Steps that a document takes: it is counted and drawn, set on pages, written.
pub const STAGES: usize = 3;

/// Makes a document, a step of [`STAGES`] told as each is done.
///
/// # Errors
/// The helper is not there yet, refuses what it was asked, or takes too long.
pub async fn make(ask: &Ask<'_>, progress: &Progress) -> Result<Vec<u8>, NoPaper> {
    progress.expect(STAGES);
    let Helper(path) = Helper::find().ok_or(NoPaper::NotReady)?;
    let broken = |e: &dyn std::fmt::Display| NoPaper::Refused(e.to_string());
    let body = serde_json::to_vec(ask).map_err(|e| broken(&e))?;
    let _turn = AT_ONCE.acquire().await.map_err(|e| broken(&e))?;
    let work = async {
        let mut child = Command::new(path)
            .arg("--from-stdin")
            .env_clear()
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .kill_on_drop(true)
            .spawn()?;
        if let Some(mut to) = child.stdin.take() {
            // It may refuse before it has read everything: what it says then counts.
            let _ = to.write_all(&body).await;
        }
        // What it says of itself meanwhile, and why it refuses.
        let mut said = String::new();
        if let Some(err) = child.stderr.take() {
            let mut lines = BufReader::new(err.take(MOST_SAID)).lines();
            let out = child.stdout.take();
            let read = async {
                let mut pdf = Vec::new();
                if let Some(out) = out {
                    out.take(MOST_BYTES + 1).read_to_end(&mut pdf).await?;
                }
                Ok::<_, std::io::Error>(pdf)
            };
            let listen = async {
                while let Some(line) = lines.next_line().await? {
                    match line.starts_with("stage ") {
                        true => progress.step(),
                        false => said += &line,
                    }
                }
                Ok::<_, std::io::Error>(())
            };
            let (pdf, heard) = tokio::join!(read, listen);
            heard?;
            return Ok((child.wait().await?, pdf?, said));
        }
        Ok::<_, std::io::Error>((child.wait().await?, Vec::new(), said))
    };
    let done = tokio::time::timeout(DEADLINE, work).await.map_err(|_| NoPaper::TooLong)?;
    let (status, pdf, said) = done.map_err(|e| broken(&e))?;
    if !status.success() || pdf.len() as u64 > MOST_BYTES {
        let said: String = said.trim().chars().take(300).collect();
        tracing::warn!(%status, %said, "no document");
        return Err(NoPaper::Refused(said));
    }
    progress.step();
    Ok(pdf)
}
