//! The helper that makes documents: a process of its own, so that its long build holds up nothing, and that
//! nothing it does can hold the server.

use crate::error::AppError;
use fenlo_core::plan::Plan;
use serde::Serialize;
use serde_json::Value;
use std::path::PathBuf;
use std::process::Stdio;
use std::time::Duration;
use tokio::io::AsyncWriteExt;
use tokio::process::Command;
use tokio::sync::Semaphore;

/// Documents made at once, by this server.
static AT_ONCE: Semaphore = Semaphore::const_new(2);
/// Longer than any document takes.
const DEADLINE: Duration = Duration::from_secs(18);
/// A document is never larger.
const MOST_BYTES: usize = 40_000_000;

/// What is to be made.
#[derive(Serialize)]
pub struct Ask<'a> {
    /// packet, plan, order or quote.
    pub kind: &'a str,
    pub lang: &'a str,
    pub paper: &'a str,
    pub job: &'a Plan,
    /// What the plan does not know: prices.
    pub more: Value,
}

/// Where the helper is.
pub struct Helper(PathBuf);

impl Helper {
    /// As `FENLO_PAPERS` says, else beside this program. None: it is not built yet.
    pub fn find() -> Option<Self> {
        let said = std::env::var_os("FENLO_PAPERS").map(PathBuf::from);
        let beside = || Some(std::env::current_exe().ok()?.parent()?.join("fenlo-papers"));
        // Test programs lie one folder deeper.
        let above = || {
            Some(
                std::env::current_exe()
                    .ok()?
                    .parent()?
                    .parent()?
                    .join("fenlo-papers"),
            )
        };
        [said, beside(), above()]
            .into_iter()
            .flatten()
            .find(|p| p.is_file())
            .map(Self)
    }
}

/// Makes a document.
///
/// # Errors
/// The helper is not there yet, refuses what it was asked, or takes too long.
pub async fn make(ask: &Ask<'_>) -> Result<Vec<u8>, AppError> {
    let Some(Helper(path)) = Helper::find() else {
        return Err(AppError::Bad(
            "documents are not ready yet: their part of Fenlo is still being built, some minutes after the first start"
                .into(),
        ));
    };
    let body = serde_json::to_vec(ask).map_err(AppError::broken)?;
    let _turn = AT_ONCE.acquire().await.map_err(AppError::broken)?;
    let work = async {
        let mut child = Command::new(path)
            .arg("--from-stdin")
            .env_clear()
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .kill_on_drop(true)
            .spawn()
            .map_err(AppError::broken)?;
        if let Some(mut to) = child.stdin.take() {
            // It may refuse before it has read everything: what it says then counts.
            let _ = to.write_all(&body).await;
        }
        child.wait_with_output().await.map_err(AppError::broken)
    };
    let done = tokio::time::timeout(DEADLINE, work)
        .await
        .map_err(|_| AppError::Bad("that document took too long to make and was stopped".into()))??;
    if !done.status.success() || done.stdout.len() > MOST_BYTES {
        let said = String::from_utf8_lossy(&done.stderr);
        tracing::warn!(status = %done.status, said = %said.chars().take(500).collect::<String>(), "no document");
        return Err(AppError::Bad("that document could not be made".into()));
    }
    Ok(done.stdout)
}
