//! Ground drawn by hand, by typed figures and by the keyboard.

use super::*;

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_house_is_drawn_by_typed_lengths_dragged_and_undone() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    b.until_says("#board-teach", "Draw the site to scale").await?;
    b.click("[data-tool=dry]").await?;
    b.click_ground((2.0, 2.0)).await?;
    b.point_ground((8.0, 2.05)).await?;
    // Typed in metres here, in feet too: the unit counts.
    for (length, angle) in [("12.5", "0"), ("26'3", "90"), ("12.5 m", "180")] {
        b.keys(&length[..1]).await?;
        let field = b.find("#entry-length").await?;
        field.send_keys(&length[1..]).await?;
        b.keys(TAB).await?;
        b.keys(&format!("{angle}{ENTER}")).await?;
        b.until_js("return document.getElementById('entry').hidden", |h| h == "true").await?;
    }
    b.keys(ENTER).await?;
    // 12.5 x 8.001 m = 100.01 m2.
    b.until_says("#sheet .sheet-figures", "100 m²").await?;
    b.until_says("#sheet .sheet-figures", "41.00 m").await?;
    b.until_says("#saving", "saved").await?;
    b.until_says("#words .name", "Building").await?;

    // A corner dragged: a new area, told by the server.
    named(&b).await?;
    b.keys("v").await?;
    let id =
        b.until_js("return document.querySelector('#board .building').dataset.id", |i| i.len() > 2).await?;
    b.click_ground((4.0, 4.0)).await?;
    b.find("#over .handle.corner").await?;
    let before = b.until_js(&rings(&id), |r| r != "none").await?;
    b.drag_ground((14.5, 10.0), (17.0, 12.5)).await?;
    b.until_js(&rings(&id), |r| r != before).await?;
    b.until("#sheet .fig b", |t| t != "100 m²").await?;

    // An edge moved square to itself by its own handle, a quarter along it: the lower one, 1 m down.
    let stretched = b.until_js(&rings(&id), |r| r != before).await?;
    b.drag_ground((5.125, 2.0), (5.125, 1.0)).await?;
    let low = b.until_js(&rings(&id), |r| r != stretched).await?;
    let corners: Vec<Vec<[f64; 3]>> = serde_json::from_str(&low)?;
    ensure!(
        (corners[0][0][1] - 1.0).abs() < 0.06 && (corners[0][1][1] - corners[0][0][1]).abs() < 1e-9,
        "{low}"
    );
    b.click("#undo-button").await?;
    b.until_js(&rings(&id), |r| r == stretched).await?;
    b.click_ground((4.0, 4.0)).await?;
    b.find("#over .handle.corner").await?;

    // What would cross itself is refused at the place, and stays as it was.
    let now = b.until_js(&rings(&id), |r| r != before).await?;
    b.drag_ground((17.0, 12.5), (0.5, 3.0)).await?;
    b.until_says("#board-says.placed", "crosses or touches itself").await?;
    ensure!(b.until_js(&rings(&id), |_| true).await? == now);

    // Nudged by keys, copied by figures, removed, all taken back.
    b.keys(RIGHT).await?;
    b.until_js(&rings(&id), |r| r != now).await?;
    b.fill("#mv-right", "20 m").await?;
    b.click("#sheet button[value=copy]").await?;
    b.until_js(THINGS, |n| n == "2").await?;
    b.click("#stage").await?;
    b.click_ground((24.0, 4.0)).await?;
    b.until_says("#sheet h2", "Building").await?;
    b.click_ground((24.0, 4.0)).await?;
    b.keys(DELETE).await?;
    b.until_js(THINGS, |n| n == "1").await?;
    for _ in 0..5 {
        b.until_js("return document.getElementById('undo-button').disabled", |d| d == "false").await?;
        let title = b.attr("#undo-button", "title").await?;
        b.click("#undo-button").await?;
        b.until_js("return document.getElementById('redo-button').disabled", |d| d == "false").await?;
        ensure!(!title.is_empty());
        tokio::time::sleep(std::time::Duration::from_millis(150)).await;
    }
    b.until_js(THINGS, |n| n == "0").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_path_is_cut_out_two_tapes_meet_and_a_line_parts_a_lawn() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    // A strip 3 ft wide inside the front lawn's upper edge, then cut out of it.
    b.click_ground((20.0 * FT, 16.0 * FT)).await?;
    b.until_says("#sheet h2", "Front lawn").await?;
    b.until_says("#sheet .sheet-figures", "574 ft²").await?;
    b.click("details[data-keep=shape] summary").await?;
    b.fill("#st-index", "4").await?;
    b.fill("#st-width", "-3 ft").await?;
    b.click("details[data-keep=shape] form:nth-of-type(2) button").await?;
    b.until_js("return document.querySelectorAll('#board .dry.path').length", |n| n == "3").await?;
    b.click("#sheet button[value=cut]").await?;
    // 48 ft by 3 ft are gone.
    b.until_says("#sheet .sheet-figures", "430 ft²").await?;
    b.fill("#st-width", "0").await?;
    b.click("details[data-keep=shape] form:nth-of-type(2) button").await?;
    b.until_says("#err-st-form", "not zero").await?;

    // Part it down the middle.
    b.click("[data-tool=cut]").await?;
    b.click_ground((36.0 * FT, 6.0 * FT)).await?;
    b.click_ground((36.0 * FT, 26.0 * FT)).await?;
    b.until_js(
        "return [...document.querySelectorAll('#board .area title')].filter(t => \
        t.textContent.startsWith('Front lawn')).length",
        |n| n == "2",
    )
    .await?;

    // Two tapes of 30 and 40 ft from the corners of the back lawn, 54 ft apart.
    b.click("[data-tool=tape]").await?;
    b.click_ground((8.0 * FT, 64.0 * FT)).await?;
    b.click_ground((62.0 * FT, 64.0 * FT)).await?;
    b.find("#entry-length").await?.send_keys(format!("10{TAB}20{ENTER}")).await?;
    b.until_says("#entry-error", "do not reach each other").await?;
    b.fill("#entry-length", "30").await?;
    b.fill("#entry-angle", "40").await?;
    b.find("#entry-angle").await?.send_keys(ENTER).await?;
    b.until_says("#board-says", "Click the correct one").await?;
    // By hand: x = (900 - 1600 + 2916) / 108 = 20.52 ft, y = sqrt(900 - 421) = 21.89 ft.
    b.click_ground(((8.0 + 20.52) * FT, (64.0 + 21.89) * FT)).await?;
    b.until_says("#board-says", "Corner placed").await?;
    b.find("#over .dot.placed").await?;
    b.keys(ESCAPE).await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn everything_goes_by_the_list_and_the_keyboard() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    b.fill("#rect-along", "38").await?;
    b.fill("#rect-across", "38 m").await?;
    b.find("#rect-degrees").await?.send_keys(ENTER).await?;
    b.until_js(THINGS, |n| n == "1").await?;
    // It is picked, and waits for its name; without one it is what it is.
    named(&b).await?;
    b.keys(ESCAPE).await?;
    b.fill("#rect-along", "38").await?;
    b.fill("#rect-across", "-2").await?;
    b.find("#rect-degrees").await?.send_keys(ENTER).await?;
    b.until_says("#err-rect-along", "must be more than zero").await?;
    b.find("#board-list summary").await?.send_keys(ENTER).await?;
    b.until_says("#board-rows", "1,444 m²").await?;
    b.find("#board-rows [data-pick]").await?.send_keys(ENTER).await?;
    b.until_says("#sheet h2", "Lawn").await?;
    b.fill("#thing-name", "The green").await?;
    b.until_says("#board-rows", "The green").await?;
    b.find("[data-keep=corners] summary").await?.send_keys(ENTER).await?;
    b.fill("#c-0-0-l", "40 m").await?;
    b.until_js("return document.querySelector('#sheet .fig b').textContent", |t| t == "1,482 m²").await?;
    b.fill("#c-0-1-b", "nonsense").await?;
    b.until_says("#err-corners-rise", "is not").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn lengths_typed_while_drawing_read_as_the_core_reads_them() -> Result<()> {
    use fenlo_core::units::{Length, UnitSystem};
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    let good = [
        "12'6\"",
        "12 ft 6 in",
        "12.5",
        "7 1/2\"",
        "40 cm",
        "3.81 m",
        "6 in",
        "0.5",
        "1' 6 1/2\"",
        "38mm",
        "12'",
    ];
    let nonsense = ["", "abc", "12 x", "ft", "--3", "1e3"];
    for (word, units) in [("us", UnitSystem::Us), ("metric", UnitSystem::Metric)] {
        let texts = serde_json::to_string(&good.iter().chain(&nonsense).collect::<Vec<_>>())?;
        let script = format!(
            "const done = arguments[0]; import('/assets/board/length.js').then(m => done({texts}.map(t => \
                m.parseLength(t, '{word}'))))"
        );
        let read: Vec<Option<f64>> = b.driver.execute_async(script, vec![]).await?.convert()?;
        for (text, read) in good.iter().zip(&read) {
            let core = Length::typed(text, units).map_err(|e| anyhow::anyhow!("{text}: {e}"))?;
            let read = read.ok_or_else(|| anyhow::anyhow!("‘{text}’ is no length while drawing"))?;
            ensure!((read - core.m()).abs() < 1e-9, "{text} in {word}: {read}, core says {}", core.m());
        }
        ensure!(read[good.len()..].iter().all(Option::is_none), "{read:?}");
        // Shown again as a tape reads, as the server shows it.
        for metres in [0.0, 0.006, 0.1, 3.807, 12.5, 42.0 * FT, 1234.5, -2.5] {
            let script = format!(
                "const done = arguments[0]; import('/assets/board/length.js').then(m => \
                    done(m.showLength({metres}, '{word}')))"
            );
            let shown: String = b.driver.execute_async(script, vec![]).await?.convert()?;
            ensure!(shown == Length::from_m(metres).show_tape(units), "{metres} in {word}: {shown}");
        }
    }
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn fingers_pinch_and_pan_and_move_only_what_is_picked() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 820, 900).await?;
    open(&b, HOUSE).await?;
    let mpp = "return document.getElementById('board').style.getPropertyValue('--mpp')";
    let before: f64 = b.until_js(mpp, |m| !m.is_empty()).await?.parse()?;
    // Two fingers, thrice as far apart at the end.
    b.touch(&[
        &[(300.0, 250.0), (340.0, 250.0)],
        &[(280.0, 250.0), (360.0, 250.0)],
        &[(260.0, 250.0), (380.0, 250.0)],
    ])
    .await?;
    // The frames between pass by: twice as far apart is not the end.
    let thrice = |m: &str| m.parse::<f64>().is_ok_and(|m| (before / m - 3.0).abs() < 0.1);
    b.until_js(mpp, thrice).await?;
    b.click("#zoom-fit").await?;
    b.until_js(mpp, |m| m.parse::<f64>().is_ok_and(|m| (m - before).abs() < before * 0.2)).await?;
    // One finger over the lawn pans; the lawn stays where it is on the ground.
    let lawn = "return document.querySelector('#board .area').dataset.rings";
    let (kept, view) = (
        b.until_js(lawn, |_| true).await?,
        "return document.getElementById('board').getAttribute('viewBox')",
    );
    let seen = b.until_js(view, |_| true).await?;
    b.touch(&[&[(300.0, 250.0)], &[(320.0, 290.0)], &[(340.0, 310.0)]]).await?;
    b.until_js(view, |v| v != seen).await?;
    ensure!(b.until_js(lawn, |_| true).await? == kept);
    b.quit().await?;
    site.stop().await
}
