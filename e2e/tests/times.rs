//! Run times: a climate is picked, a night packed, a start dragged and kept, a fault found on the controller.

use anyhow::{Result, ensure};
use fenlo_e2e::{Browser, Site};

const RIGHT: &str = "\u{E014}";
/// When the first run of the second valve begins, minutes after the window opens.
const START: &str = "return document.querySelector('#night .grip[data-run=v2]')?.dataset.start ?? 'none'";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_night_is_packed_a_start_is_dragged_and_kept_and_undo_frees_it() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/3/pressure").await?;
    b.until_says("h1", "Pressure").await?;
    b.find("body").await?;
    b.keys("6").await?;
    b.until_says("h1", "Run times").await?;
    b.until_says(".times-said", "No climate data").await?;
    b.pick("#table-table", "Merrin Valley").await?;
    b.until_js("return document.querySelectorAll('.times-said').length", |n| n == "0").await?;
    b.until_says("#saving", "saved").await?;
    // The month is chosen by its name; January's rain gives all.
    b.click(".months a:nth-child(1)").await?;
    b.until_says(".times-figures .big", "no watering").await?;
    b.click(".months a:nth-child(7)").await?;
    b.until_says(".times-figures .big", "from 10:00 PM").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);

    let first: i64 = b.until_js(START, |t| t != "none").await?.parse()?;
    b.drag_by("#night .grip[data-run=v2]", 120).await?;
    let later: i64 = b.until_js(START, |t| t.parse::<i64>().is_ok_and(|n| n > first)).await?.parse()?;
    ensure!(later % 5 == 0, "it goes by five minutes: {later}");
    b.until_says(".times-rows", "starts").await?;
    // With the arrow keys too, and the bar keeps its focus.
    b.until_js(
        "document.querySelector('#night .grip[data-run=v2]').focus(); return \
            document.activeElement.dataset.run",
        |run| run == "v2",
    )
    .await?;
    b.keys(RIGHT).await?;
    b.until_js(START, |t| t.parse::<i64>().is_ok_and(|n| n == later + 5)).await?;
    // The hand rests, the server packs, and the bar stands where it was put.
    let shifted =
        "return document.querySelector('#night .grip[data-run=v2]')?.hasAttribute('transform') ?? true";
    b.until_js(shifted, |moved| moved == "false").await?;
    b.until_js("return document.activeElement.dataset?.run ?? ''", |run| run == "v2").await?;
    b.click("#undo-button").await?;
    b.until_js(START, |t| t == later.to_string()).await?;

    // What a station rests on is folded out, and stays so while its wishes are typed.
    b.click(".times-row summary").await?;
    b.until_says(".times-row[open]", "ET₀ per week").await?;
    b.fill("#factor-v1", "9").await?;
    b.until_says("#err-station-factor", "0.05 to 1.5").await?;
    b.fill("#factor-v1", "0.6").await?;
    b.until_says(".times-row[open]", "plant factor, entered").await?;
    b.resize(390, 844).await?;
    ensure!(!b.overflows().await?, "times fit a telephone");
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_broken_lateral_is_seen_on_the_controller_and_a_sound_night_is_not_doubted() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/3/times").await?;
    b.click("#try-run").await?;
    b.until_says("#trial", "match the prediction").await?;
    b.pick("#try-fault", "broken-lateral").await?;
    b.pick("#try-valve", "v1").await?;
    b.click("#try-run").await?;
    b.until_says("#trial", "High flow whenever 1 ").await?;
    b.pick("#try-fault", "stuck-open").await?;
    b.click("#try-run").await?;
    b.until("#trial", |t| t.contains("stuck open") || t.contains("High flow")).await?;
    b.go("/jobs/3/times/sheet").await?;
    b.until_says("h1", "Controller schedule").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.quit().await?;
    site.stop().await
}
