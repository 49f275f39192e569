//! An installer at the board.

mod draw;
mod drip;
mod files;
mod heads;
mod pipes;
mod together;
mod words;

use anyhow::{Result, ensure};
use fenlo_e2e::{Browser, Site};

const ENTER: &str = "\u{E007}";
const TAB: &str = "\u{E004}";
const ESCAPE: &str = "\u{E00C}";
const RIGHT: &str = "\u{E014}";
const DELETE: &str = "\u{E017}";
const FT: f64 = 0.3048;

/// The board of the house on the corner plot.
const HOUSE: &str = "/jobs/3/ground";
/// The board of the bowls green, where nothing is drawn yet; metric.
const GREEN: &str = "/jobs/1/ground";

/// Corners of a thing, as JSON.
fn rings(id: &str) -> String {
    format!("return document.getElementById('t-{id}')?.dataset.rings ?? 'none'")
}
/// How many things there are.
const THINGS: &str = "return document.querySelectorAll('#board .thing').length";

async fn open(b: &Browser, path: &str) -> Result<()> {
    b.go(path).await?;
    b.find("#stage[data-tool], #stage").await?;
    // The module has set the view once the ground under a pixel is known.
    b.until_js("return document.getElementById('board').style.getPropertyValue('--mpp')", |m| !m.is_empty())
        .await?;
    Ok(())
}

/// The board's list picks a thing by its name.
async fn pick(b: &Browser, id: &str) -> Result<()> {
    b.until_js(
        &format!(
            "document.getElementById('board-list').open = true; const e = \
        document.querySelector('[data-pick=\"{id}\"]'); e?.click(); return Boolean(e)"
        ),
        |found| found == "true",
    )
    .await?;
    b.until_js("return document.querySelectorAll('#board .picked').length", |n| n == "1").await?;
    Ok(())
}

/// What was just drawn is picked, and its name has the keys: back to the board without one.
async fn named(b: &Browser) -> Result<()> {
    b.until_js("return document.activeElement.id", |id| id == "thing-name").await?;
    b.keys(ENTER).await?;
    b.until_js("return document.activeElement.id", |id| id == "stage").await?;
    Ok(())
}
