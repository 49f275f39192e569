//! Heads by hand and by machine, and their water.

use super::*;

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn heads_by_hand_stand_to_the_ground_and_count_on_valves() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    b.pick("#head-nozzle", "spray-10").await?;
    b.pick("#head-valve", "v1").await?;
    b.click("[data-tool=head]").await?;
    b.click_ground((12.0 * FT, 22.0 * FT)).await?;
    b.until_js(
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => \
        [h.dataset.arc, h.dataset.facing]).join()",
        |a| a == "90,315",
    )
    .await?;
    b.click_ground((36.0 * FT, 10.0 * FT)).await?;
    b.until_js(
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => \
            h.dataset.arc).join()",
        |a| a == "90,180",
    )
    .await?;
    // Near the middle of the edge, 12 to 57 ft, it comes to the middle itself.
    let x = b
        .until_js(
            "return \
        [...document.querySelectorAll('.head[data-nozzle=spray-10]')].pop().dataset.at.split(',')[0]",
            |_| true,
        )
        .await?
        .parse::<f64>()?;
    ensure!((x - 34.5 * FT).abs() < 1e-3, "stands at {} ft", x / FT);
    b.keys("v").await?;
    b.click_ground((34.5 * FT, 10.0 * FT)).await?;
    b.until_says("#sheet h2", "Spray 10 ft").await?;
    b.until_says("#sheet .sheet-figures", "psi").await?;
    b.click("#sheet .fig:first-child summary").await?;
    b.until_says("#sheet .working[open]", "at the start of the lateral").await?;

    // Its arc typed; its throw turned down too far is refused at the field.
    b.fill("#ar-arc", "120").await?;
    b.until_js(
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => \
            h.dataset.arc).join()",
        |a| a == "90,120",
    )
    .await?;
    b.fill("#th-radius", "5 ft").await?;
    b.until_says("#err-th-radius", "radius adjusts from 10 ft down to 7.5 ft").await?;

    // Dragged along the edge.
    let at =
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => h.dataset.at).pop()";
    let before = b.until_js(at, |a| a != "null").await?;
    b.drag_ground((34.5 * FT, 10.0 * FT), (46.0 * FT, 10.0 * FT)).await?;
    b.until_js(at, |a| a != before).await?;

    // Valves and Pressure know them.
    b.go("/jobs/3/valves?valve=v1").await?;
    b.until_says(".lane.chosen", "12").await?;
    b.go("/jobs/3/heads").await?;
    b.until_says("#h-groups", "on the site plan").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn heads_are_laid_out_compared_dragged_and_their_water_is_seen() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    let heads = "return document.querySelectorAll('#board .head').length";
    let before = b.until_js(heads, |n| n != "0").await?;

    // The back lawn's water, with the heads that the demo has on it.
    pick(&b, "a6").await?;
    b.click("[data-water=a6]").await?;
    b.until_says("#water h2", "Coverage, Back lawn").await?;
    b.find("#y-water path.w3").await?;
    b.find("#y-water .driest").await?;
    let first = b.until("[data-figure=du]", |t| t.starts_with("0.")).await?;

    // Laid out anew as short rotators: other heads, one edit, and the figures follow.
    b.pick("#lay-kind", "rotator-short").await?;
    b.click("[data-keep=layout] .btn-earth").await?;
    let laid = b.until_js(heads, |n| n != before).await?;
    ensure!(laid.parse::<usize>()? > 12, "{laid} heads");
    b.until_says("#water", "heads").await?;
    b.until("#water p.soft", |t| t.contains(&format!("{laid} heads")) || t.contains("heads")).await?;
    let even: f64 =
        b.until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d > 0.8)).await?.parse()?;
    // What an audit would find stands beside it, and is less.
    let audit: f64 = b.until("[data-figure=du-expected]", |t| t.parse::<f64>().is_ok()).await?.parse()?;
    ensure!(audit < even && audit > 0.5, "{audit} of {even}");

    // One head locked; dragging another shows what it would do before it is let go.
    b.until_says(".water-findings", "Head-to-head").await?;
    let at = "return [...document.querySelectorAll('#board .head')].find(h => h.dataset.arc === '360' && \
        document.elementFromPoint(...(() => { const r = h.querySelector('.ring').getBoundingClientRect(); \
        return [r.x + r.width / 2, r.y + r.height / 2]; })())?.closest('.head') === h)?.dataset.at ?? ''";
    let inner: Vec<f64> =
        b.until_js(at, |a| a.contains(',')).await?.split(',').map(str::parse).collect::<Result<_, _>>()?;
    b.hold_ground((inner[0], inner[1]), (inner[0] + 2.5, inner[1] + 1.5)).await?;
    b.until_says("#water h2", "preview").await?;
    let tried: f64 =
        b.until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d < even)).await?.parse()?;
    b.let_go().await?;
    b.until("#water h2", |t| !t.contains("preview")).await?;
    b.until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d < even)).await?;
    ensure!(tried < even, "{tried} {even}");
    b.click("#undo-button").await?;
    b.until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| (d - even).abs() < 0.011)).await?;
    b.click("#undo-button").await?;
    b.until_js(heads, |n| n == before).await?;
    b.until("[data-figure=du]", |t| t == first).await?;
    // Wind carries it off the area.
    let off = b.text("[data-figure=over]").await?;
    b.pick("#water-speed", "12").await?;
    b.until("[data-figure=over]", |t| t != off).await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);

    // Side by side: the bar, five ways with pictures, one taken, undone.
    b.go("/jobs/3/layout?area=a1").await?;
    b.click("#layout-form .btn-earth").await?;
    b.until_js("return document.querySelectorAll('.way').length", |n| n == "5").await?;
    let text = b.text(".ways").await?;
    for told in [
        "Spray",
        "Short rotator",
        "Dripline",
        "Valves, minimum",
        "Run time per peak week",
        "Water per year",
        "costs least",
    ] {
        ensure!(text.contains(told), "{told}: {text}");
    }
    ensure!(
        b.until_js("return document.querySelectorAll('.way svg.picture .spot').length", |_| true)
            .await?
            .parse::<usize>()?
            > 6
    );
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.click(".way .btn-line").await?;
    b.until_says("#layout-said", "Heads laid out").await?;
    b.go(HOUSE).await?;
    b.until_js(heads, |n| n.parse::<usize>().is_ok_and(|n| n > before.parse().unwrap_or(0))).await?;
    b.quit().await?;
    site.stop().await
}
