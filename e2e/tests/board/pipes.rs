//! Pipe at the board: proposed, a box dragged, a size pinned, undone, valves run together.

use super::*;

/// Pipes on the board.
const PIPES: &str = "return document.querySelectorAll('#board .pipe').length";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn pipe_is_proposed_follows_its_box_and_keeps_a_pinned_size() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    b.until_js("return document.querySelectorAll('#board .unrouted').length", |n| n != "0").await?;
    b.click("[data-keep=pipe] [value=route]").await?;
    let laid = b.until_js(PIPES, |n| n.parse::<usize>().is_ok_and(|n| n > 8)).await?;
    b.until_says("[data-keep=pipe]", "Trench").await?;
    b.until_says("[data-keep=pipe]", "Reroute all pipe").await?;
    b.until_says("#saving", "saved").await?;

    // The main comes to the box; the box is dragged, and both its pipes follow.
    let ends = "return JSON.stringify([...document.querySelectorAll('#board .pipe')].flatMap(p => { \
        const way = JSON.parse(p.dataset.rings)[0]; return [way[0], way.at(-1)]; }))";
    let (x, y) = (19.2024, 17.3736);
    let near = |text: &str, x: f64, y: f64| -> usize {
        let ends: Vec<[f64; 2]> = serde_json::from_str(text).unwrap_or_default();
        ends.iter().filter(|e| (e[0] - x).abs() < 0.2 && (e[1] - y).abs() < 0.2).count()
    };
    ensure!(near(&b.until_js(ends, |t| t.len() > 2).await?, x, y) >= 2, "main and lateral meet at the box");
    pick(&b, "p2").await?;
    b.drag_ground((x, y), (x + 1.5, y + 1.0)).await?;
    let moved = b.until_js(ends, |t| near(t, x, y) == 0).await?;
    let places: Vec<[f64; 2]> = serde_json::from_str(&moved)?;
    let here = places.iter().find(|e| e[0] > x + 0.5 && e[0] < x + 3.0 && e[1] > y).copied();
    ensure!(here.is_some_and(|e| near(&moved, e[0], e[1]) >= 2), "{moved}");
    b.click("#undo-button").await?;
    b.until_js(ends, |t| near(t, x, y) >= 2).await?;

    // A size pinned, told on its sheet with how it was reckoned; undo takes it back.
    let id =
        b.until_js("return document.querySelector('#board .pipe.main').dataset.id", |i| i.len() > 1).await?;
    pick(&b, &id).await?;
    b.until_says("#sheet h2", "Main").await?;
    b.until_says("#sheet .sheet-figures", "Velocity").await?;
    b.pick("#pp-pipe", "class-200 2in").await?;
    let pinned = format!("return document.getElementById('t-{id}').classList.contains('pinned')");
    b.until_js(&pinned, |p| p == "true").await?;
    b.until_says("#sheet", "Unlock size").await?;
    b.click("#undo-button").await?;
    b.until_js(&pinned, |p| p == "false").await?;

    // Two valves at once take more than one, and the last head gets less than alone.
    b.until_js("document.querySelector('#sheet [data-unpick]')?.click(); return true", |t| t == "true")
        .await?;
    b.click("[data-keep=together] > summary").await?;
    b.click("[data-together][value=v1]").await?;
    b.until_says("#together", "two or more valves").await?;
    b.click("[data-together][value=v5]").await?;
    b.until_says("#together", "Total").await?;

    // All of it is one step back.
    b.click("#undo-button").await?;
    b.until_js(PIPES, |n| n == "0").await?;
    b.click("#redo-button").await?;
    b.until_js(PIPES, |n| n == laid).await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn pipe_is_drawn_point_by_point_and_taken_up() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    b.click("[data-tool=pipe]").await?;
    b.pick("#pipe-of", "main:s1").await?;
    // From the meter to the box.
    b.click_ground((19.2024, 0.9144)).await?;
    b.click_ground((20.0, 8.0)).await?;
    b.click_ground((19.2024, 17.3736)).await?;
    b.keys(ENTER).await?;
    b.until_js(PIPES, |n| n == "1").await?;
    b.until_js("return document.querySelector('#board .pipe').dataset.rings", |r| {
        r.contains("19.2024,17.3736")
    })
    .await?;
    b.until_says("#sheet h2", "Main").await?;
    b.click("#sheet [value=remove]").await?;
    b.until_js(PIPES, |n| n == "0").await?;
    b.quit().await?;
    site.stop().await
}
