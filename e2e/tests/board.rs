//! An installer at the board.

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
    b.until_js(
        "return document.getElementById('board').style.getPropertyValue('--mpp')",
        |m| !m.is_empty(),
    )
    .await?;
    Ok(())
}

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
        b.until_js("return document.getElementById('entry').hidden", |h| h == "true")
            .await?;
    }
    b.keys(ENTER).await?;
    // 12.5 x 8.001 m = 100.01 m2.
    b.until_says("#sheet .sheet-figures", "100 m²").await?;
    b.until_says("#sheet .sheet-figures", "41.00 m").await?;
    b.until_says("#status", "saved").await?;
    b.until_says("#words .name", "Building").await?;

    // A corner dragged: a new area, told by the server.
    b.keys("v").await?;
    let id = b
        .until_js(
            "return document.querySelector('#board .building').dataset.id",
            |i| i.len() > 2,
        )
        .await?;
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
    b.until_says("#board-says.placed", "crosses or touches itself")
        .await?;
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
        b.until_js("return document.getElementById('undo-button').disabled", |d| {
            d == "false"
        })
        .await?;
        let title = b.attr("#undo-button", "title").await?;
        b.click("#undo-button").await?;
        b.until_js("return document.getElementById('redo-button').disabled", |d| {
            d == "false"
        })
        .await?;
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
    b.click("details[data-keep=shape] form:nth-of-type(2) button")
        .await?;
    b.until_js(
        "return document.querySelectorAll('#board .dry.path').length",
        |n| n == "3",
    )
    .await?;
    b.click("#sheet button[value=cut]").await?;
    // 48 ft by 3 ft are gone.
    b.until_says("#sheet .sheet-figures", "430 ft²").await?;
    b.fill("#st-width", "0").await?;
    b.click("details[data-keep=shape] form:nth-of-type(2) button")
        .await?;
    b.until_says("#err-st-form", "must not be zero").await?;

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
    b.find("#entry-length")
        .await?
        .send_keys(format!("10{TAB}20{ENTER}"))
        .await?;
    b.until_says("#entry-error", "do not meet").await?;
    b.fill("#entry-length", "30").await?;
    b.fill("#entry-angle", "40").await?;
    b.find("#entry-angle").await?.send_keys(ENTER).await?;
    b.until_says("#board-says", "click the right one").await?;
    // By hand: x = (900 - 1600 + 2916) / 108 = 20.52 ft, y = sqrt(900 - 421) = 21.89 ft.
    b.click_ground(((8.0 + 20.52) * FT, (64.0 + 21.89) * FT)).await?;
    b.until_says("#board-says", "Corner set").await?;
    b.find("#over .dot.placed").await?;
    b.keys(ESCAPE).await?;
    b.quit().await?;
    site.stop().await
}

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
    b.until_says("#sheet .working[open]", "before the lateral")
        .await?;

    // Its arc typed; its throw turned down too far is refused at the field.
    b.fill("#ar-arc", "120").await?;
    b.until_js(
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => \
            h.dataset.arc).join()",
        |a| a == "90,120",
    )
    .await?;
    b.fill("#th-radius", "5 ft").await?;
    b.until_says("#err-th-form", "turned down from 10 ft to 7.5 ft")
        .await?;

    // Dragged along the edge.
    let at =
        "return [...document.querySelectorAll('.head[data-nozzle=spray-10]')].map(h => h.dataset.at).pop()";
    let before = b.until_js(at, |a| a != "null").await?;
    b.drag_ground((34.5 * FT, 10.0 * FT), (46.0 * FT, 10.0 * FT))
        .await?;
    b.until_js(at, |a| a != before).await?;

    // Valves and Pressure know them.
    b.go("/jobs/3/valves?valve=v1").await?;
    b.until_says(".lane.chosen", "12").await?;
    b.go("/jobs/3/heads").await?;
    b.until_says("#h-groups", "drawn on the board").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn two_browsers_see_one_another_and_a_killed_server_loses_nothing() -> Result<()> {
    let mut site = Site::start().await?;
    let a = Browser::open(&site.address, 1280, 800).await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&a, HOUSE).await?;
    open(&b, HOUSE).await?;
    // One moves the rose bed, the other sees it without a reload.
    let start = b.until_js(&rings("a3"), |r| r != "none").await?;
    a.drag_ground((70.0 * FT, 66.0 * FT), (71.0 * FT, 60.0 * FT))
        .await?;
    let moved = a.until_js(&rings("a3"), |r| r != start).await?;
    b.until_js(&rings("a3"), |r| r == moved).await?;

    // The server is killed: both go on drawing, and are told.
    let strip = b.until_js(&rings("a4"), |r| r != "none").await?;
    site.kill();
    a.drag_ground((40.0 * FT, 40.0 * FT), (44.0 * FT, 40.0 * FT))
        .await?;
    a.until_says("#board-says", "1 change waits").await?;
    a.click("[data-tool=place]").await?;
    a.click_ground((70.0 * FT, 100.0 * FT)).await?;
    a.until_says("#board-says", "2 changes wait").await?;
    b.drag_ground((14.0 * FT, 40.0 * FT), (10.0 * FT, 40.0 * FT))
        .await?;
    b.until_says("#board-says", "1 change waits").await?;
    // A reload of the waiting page would find nothing, but what waits is kept: here the page stays.
    let house = a.until_js(&rings("d1"), |r| r != "none").await?;
    site.revive().await?;
    a.until_says("#board-says", "Everything is saved").await?;
    a.until_js(&rings("d1"), |r| r != house).await?;
    // Different things: both stand, and both boards show both.
    let strip = b.until_js(&rings("a4"), |r| r != strip).await?;
    let places = "return document.querySelectorAll('#board .place').length";
    b.until_js(places, |n| n == "4").await?;
    let house = a.until_js(&rings("d1"), |r| r != house).await?;
    b.until_js(&rings("d1"), |r| r == house).await?;
    a.until_js(&rings("a4"), |r| r == strip).await?;
    // Loaded anew it is all there.
    open(&a, HOUSE).await?;
    ensure!(
        a.until_js(&rings("d1"), |_| true).await? == house
            && a.until_js(&rings("a4"), |_| true).await? == strip
    );

    // The same thing from two sides: the second is refused and told why. The news is held back by
    // sending the older number by hand.
    let answer = b
        .driver
        .execute_async(
            "const done = arguments[0]; fetch('/jobs/3/ground/gesture', {method: 'POST', headers: \
                {'content-type': 'application/json'}, body: JSON.stringify({base: 0, key: 'late', \
                gesture: {do: 'move', ids: ['a3'], motion: {shift: {by: [1, 0]}}}})}).then(async r => \
                done([r.status, (await r.json()).message]))",
            vec![],
        )
        .await?;
    let (status, message): (u16, String) = answer.convert()?;
    ensure!(
        status == 409 && message.contains("Somebody else changed this meanwhile"),
        "{status} {message}"
    );
    a.quit().await?;
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
    b.fill("#rect-across", "-2").await?;
    b.find("#rect-degrees").await?.send_keys(ENTER).await?;
    b.until_says("#err-rect-along", "must be more than zero").await?;
    b.find("#board-list summary").await?.send_keys(ENTER).await?;
    b.until_says("#board-rows", "1,444 m²").await?;
    b.find("#board-rows [data-pick]").await?.send_keys(ENTER).await?;
    b.until_says("#sheet h2", "Lawn").await?;
    b.fill("#thing-name", "The green").await?;
    b.until_says("#board-rows", "The green").await?;
    b.find("[data-keep=corners] summary")
        .await?
        .send_keys(ENTER)
        .await?;
    b.fill("#c-0-0-l", "40 m").await?;
    b.until_js(
        "return document.querySelector('#sheet .fig b').textContent",
        |t| t == "1,482 m²",
    )
    .await?;
    b.fill("#c-0-1-b", "nonsense").await?;
    b.until_says("#err-corners-rise", "is not").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_drawing_comes_in_by_layers_and_goes_out_again() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    let folder = std::fs::canonicalize(concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../crates/formats/tests/drawings"
    ))?;
    let folder = folder.display();
    b.click(".do:nth-of-type(2) > summary").await?;
    b.find("#import-file")
        .await?
        .send_keys(format!("{folder}/plot-feet.dxf"))
        .await?;
    b.click(".import .btn-line").await?;
    b.until_says("h1", "plot-feet.dxf").await?;
    b.until_says("table", "GRASS").await?;
    ensure!(b.value("#import-unit").await? == "0.3048", "the header says feet");
    b.until_says("main", "dimensions").await?;
    b.click(".btn-earth").await?;
    b.until_says("main", "Brought in").await?;
    b.click(".page-head .btn-line").await?;
    // A lawn of 40 x 60 ft is 223 m2.
    b.until_js(
        "return [...document.querySelectorAll('#board .lawn title')].map(t => t.textContent).join()",
        |t| t.contains("223 m²"),
    )
    .await?;
    b.click("#undo-button").await?;
    b.until_js(THINGS, |n| n == "0").await?;

    // A file that is no drawing is refused in words, and nothing comes in.
    b.click(".do:nth-of-type(2) > summary").await?;
    b.find("#import-file")
        .await?
        .send_keys(format!("{folder}/README.md"))
        .await?;
    b.click(".import .btn-line").await?;
    b.until_says("#notice", "is not a code of DXF").await?;
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
            ensure!(
                (read - core.m()).abs() < 1e-9,
                "{text} in {word}: {read}, core says {}",
                core.m()
            );
        }
        ensure!(read[good.len()..].iter().all(Option::is_none), "{read:?}");
        // Shown again as a tape reads, as the server shows it.
        for metres in [0.0, 0.1, 3.807, 12.5, 42.0 * FT] {
            let script = format!(
                "const done = arguments[0]; import('/assets/board/length.js').then(m => \
                    done(m.showLength({metres}, '{word}')))"
            );
            let shown: String = b.driver.execute_async(script, vec![]).await?.convert()?;
            ensure!(
                shown == Length::from_m(metres).show_tape(units),
                "{metres} in {word}: {shown}"
            );
        }
    }
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn several_things_are_joined_a_scan_is_scaled_and_snapping_finds_corners() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    // Two rectangles, the second begun near a corner of the first: it snaps onto it.
    b.click("[data-tool=area]").await?;
    b.click("[data-tool=rect]").await?;
    b.click_ground((2.0, 2.0)).await?;
    b.click_ground((8.0, 8.0)).await?;
    b.until_js(THINGS, |n| n == "1").await?;
    b.until_js(
        "return document.querySelectorAll('#board .waiting').length",
        |n| n == "0",
    )
    .await?;
    b.click_ground((8.1, 1.9)).await?;
    b.click_ground((14.0, 7.9)).await?;
    b.until_js(THINGS, |n| n == "2").await?;
    b.until_js(
        "return document.querySelectorAll('#board .waiting').length",
        |n| n == "0",
    )
    .await?;
    let all =
        "return [...document.querySelectorAll('#board [data-rings]')].map(e => e.dataset.rings).join('|')";
    let drawn = b.until_js(all, |r| r.contains('|')).await?;
    let rings: Vec<Vec<Vec<[f64; 3]>>> = drawn
        .split('|')
        .map(serde_json::from_str)
        .collect::<Result<_, _>>()?;
    let corner = rings[0][0]
        .iter()
        .find(|c| c[0] > 5.0 && c[1] < 5.0)
        .ok_or_else(|| anyhow::anyhow!("no lower right corner"))?;
    ensure!(
        rings[1][0]
            .iter()
            .any(|c| (c[0] - corner[0]).abs() < 1e-9 && (c[1] - corner[1]).abs() < 1e-9),
        "{drawn}"
    );
    // Both picked, joined, taken back.
    b.keys("v").await?;
    b.find("#stage").await?.send_keys("\u{E009}a").await?;
    b.until_says("#sheet h2", "2 picked").await?;
    b.click("#sheet button[value=join]").await?;
    b.until_js(THINGS, |n| n == "1").await?;
    b.click("#undo-button").await?;
    b.until_js(THINGS, |n| n == "2").await?;

    // A scan beneath: scaled by two points and a typed length.
    let scan = std::fs::canonicalize(concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../crates/web/tests/scan.png"
    ))?;
    b.click("[data-keep=picture] > summary").await?;
    b.find("#picture-file")
        .await?
        .send_keys(scan.display().to_string())
        .await?;
    b.click("[data-keep=picture] form .btn-line").await?;
    let wide = "return document.querySelector('#y-underlay image')?.getAttribute('width') ?? 'none'";
    let before: f64 = b.until_js(wide, |w| w != "none").await?.parse()?;
    open(&b, GREEN).await?;
    b.click("[data-tool=scale]").await?;
    b.click_ground((3.0, 10.0)).await?;
    b.click_ground((5.0, 10.0)).await?;
    b.find("#entry-length")
        .await?
        .send_keys(format!("4 m{ENTER}"))
        .await?;
    let after: f64 = b
        .until_js(wide, |w| w.parse::<f64>().is_ok_and(|w| (w - before).abs() > 0.1))
        .await?
        .parse()?;
    ensure!(
        (after / before - 2.0).abs() < 0.1,
        "{before} to {after}: 2 m were 4 m"
    );
    b.quit().await?;
    site.stop().await
}

/// Names, areas, perimeters and lengths that stand on the board, with where they stand in pixels.
const WORDS: &str = "return JSON.stringify([...document.querySelectorAll('#words .word')].map(w => { const \
    b = w.getBoundingClientRect(); return [w.textContent, b.left, b.top, b.right, b.bottom]; }))";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn every_length_stands_on_the_board_and_refusals_stand_at_their_place() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    let words = b.until_js(WORDS, |w| w.contains("round")).await?;
    let words: Vec<(String, f64, f64, f64, f64)> = serde_json::from_str(&words)?;
    for told in [
        "Back lawn1,944 ft²180' round",
        "Hedge78 ft²58' round",
        "Patio64 ft²",
        "104'",
        "3'6\"",
        "4'8½\"",
    ] {
        ensure!(
            words.iter().any(|w| w.0 == told),
            "{told} is not on the board: {words:?}"
        );
    }
    // None over another, but for a hair where letters end.
    for (i, a) in words.iter().enumerate() {
        for c in &words[..i] {
            let over = (a.3.min(c.3) - a.1.max(c.1) > 4.0) && (a.4.min(c.4) - a.2.max(c.2) > 4.0);
            ensure!(!over, "{a:?} lies over {c:?}");
        }
    }
    ensure!(
        b.text("#untold").await?.is_empty(),
        "something has no room on a house of this size"
    );
    // Far off there is no room for all of them: it says how many.
    for _ in 0..9 {
        b.find("#stage").await?.send_keys("-").await?;
    }
    b.until_says("#untold", "no room at this scale").await?;
    b.click("#zoom-fit").await?;

    // Drawn across itself: refused at the crossing, (41, 24) in feet of a bow tie, and still in the hand.
    b.click("[data-tool=area]").await?;
    for (x, y) in [(124.0, 60.0), (144.0, 80.0), (144.0, 60.0), (124.0, 80.0)] {
        b.click_ground((x * FT, y * FT)).await?;
    }
    b.keys(ENTER).await?;
    b.until_says("#board-says.placed", "the edge crosses or touches itself")
        .await?;
    let apart = "const m = document.getElementById('board-blame').getBoundingClientRect(); const p = new \
        DOMPoint(134 * 0.3048, -70 * \
        0.3048).matrixTransform(document.getElementById('board').getScreenCTM()); return \
        Math.hypot((m.left + m.right) / 2 - p.x, (m.top + m.bottom) / 2 - p.y)";
    let apart: f64 = b.until_js(apart, |_| true).await?.parse()?;
    ensure!(apart < 12.0, "the mark stands {apart} px from the crossing");
    ensure!(
        b.until_js(
            "return document.querySelectorAll('#over .dot.placed').length",
            |_| true
        )
        .await?
            == "4"
    );
    b.keys("\u{E003}").await?;
    b.click_ground((134.0 * FT, 55.0 * FT)).await?;
    let before: usize = b.until_js(THINGS, |_| true).await?.parse()?;
    b.keys(ENTER).await?;
    b.until_js(THINGS, |n| n.parse::<usize>().is_ok_and(|n| n == before + 1))
        .await?;
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
    b.until_js(mpp, |m| {
        m.parse::<f64>().is_ok_and(|m| (m - before).abs() < before * 0.2)
    })
    .await?;
    // One finger over the lawn pans; the lawn stays where it is on the ground.
    let lawn = "return document.querySelector('#board .area').dataset.rings";
    let (kept, view) = (
        b.until_js(lawn, |_| true).await?,
        "return document.getElementById('board').getAttribute('viewBox')",
    );
    let seen = b.until_js(view, |_| true).await?;
    b.touch(&[&[(300.0, 250.0)], &[(320.0, 290.0)], &[(340.0, 310.0)]])
        .await?;
    b.until_js(view, |v| v != seen).await?;
    ensure!(b.until_js(lawn, |_| true).await? == kept);
    b.quit().await?;
    site.stop().await
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
    b.until_js("return document.querySelectorAll('#board .picked').length", |n| {
        n == "1"
    })
    .await?;
    Ok(())
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
    b.until_says("#water h2", "Water on Back lawn").await?;
    b.find("#y-water path.w3").await?;
    b.find("#y-water .driest").await?;
    let first = b.until("[data-figure=du]", |t| t.starts_with("0.")).await?;

    // Laid out anew as sprays: other heads, one edit, and the figures follow.
    b.pick("#lay-kind", "spray").await?;
    b.click("[data-keep=layout] .btn-earth").await?;
    let laid = b.until_js(heads, |n| n != before).await?;
    ensure!(laid.parse::<usize>()? > 12, "{laid} heads");
    b.until_says("#water", "heads").await?;
    b.until("#water p.soft", |t| {
        t.contains(&format!("{laid} heads")) || t.contains("heads")
    })
    .await?;
    let even: f64 = b
        .until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d > 0.8))
        .await?
        .parse()?;

    // One head locked; dragging another shows what it would do before it is let go.
    b.until_says(".water-findings", "Head to head").await?;
    let at = "return [...document.querySelectorAll('#board .head')].find(h => h.dataset.arc === '360' && \
        document.elementFromPoint(...(() => { const r = h.querySelector('.ring').getBoundingClientRect(); \
        return [r.x + r.width / 2, r.y + r.height / 2]; })())?.closest('.head') === h)?.dataset.at ?? ''";
    let inner: Vec<f64> = b
        .until_js(at, |a| a.contains(','))
        .await?
        .split(',')
        .map(str::parse)
        .collect::<Result<_, _>>()?;
    b.hold_ground((inner[0], inner[1]), (inner[0] + 2.5, inner[1] + 1.5))
        .await?;
    b.until_says("#water h2", "as it would be").await?;
    let tried: f64 = b
        .until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d < even))
        .await?
        .parse()?;
    b.let_go().await?;
    b.until("#water h2", |t| !t.contains("as it would be")).await?;
    b.until("[data-figure=du]", |t| t.parse::<f64>().is_ok_and(|d| d < even))
        .await?;
    ensure!(tried < even, "{tried} {even}");
    b.click("#undo-button").await?;
    b.until("[data-figure=du]", |t| {
        t.parse::<f64>().is_ok_and(|d| (d - even).abs() < 0.011)
    })
    .await?;
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
    b.until_js("return document.querySelectorAll('.way').length", |n| n == "5")
        .await?;
    let text = b.text(".ways").await?;
    for told in [
        "Spray",
        "Short rotator",
        "Dripline",
        "Valves, at least",
        "A week, at peak",
        "Water a year",
        "suits here",
    ] {
        ensure!(text.contains(told), "{told}: {text}");
    }
    ensure!(
        b.until_js(
            "return document.querySelectorAll('.way svg.picture .spot').length",
            |_| true
        )
        .await?
        .parse::<usize>()?
            > 6
    );
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.click(".way .btn-line").await?;
    b.until_says("#layout-said", "Laid out").await?;
    b.go(HOUSE).await?;
    b.until_js(heads, |n| {
        n.parse::<usize>().is_ok_and(|n| n > before.parse().unwrap_or(0))
    })
    .await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_chart_with_faults_is_seen_before_it_is_saved_and_then_used() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/3/catalogue").await?;
    b.until_says("#nozzle h2", "Spray 12 ft").await?;
    b.find("#nozzle svg.nozzle-curve").await?;
    let chart = "name,kind,pressure psi,arc,radius ft,flow gpm\nField 12,spray,20,360,11,1.95\nField \
        12,spray,30,360,12,2.4\nField 15,spray,thirty,360,15,3.7\n";
    let fill = format!(
        "document.getElementById('chart-text').value = {}; return true",
        serde_json::to_string(chart)?
    );
    b.until_js(&fill, |t| t == "true").await?;
    b.click("#chart-form .btn-line").await?;
    b.until_says(
        ".chart-faults",
        "pressure is ‘thirty’: expected a number over zero",
    )
    .await?;
    ensure!(b.text(".chart-faults td").await? == "4");
    ensure!(
        b.until_js(
            "return document.querySelectorAll('.kind-group .pill').length",
            |_| true
        )
        .await?
            == "0",
        "nothing is saved before it was seen"
    );
    b.click("#chart-preview .btn-earth").await?;
    b.until_says("#nozzle h2", "Field 12").await?;
    b.until_says("#nozzle", "How it was fitted").await?;
    ensure!(!b.text(".catalogue").await?.contains("Field 15"));
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    // A typed row with a fault says so at its field; mended it is one more row.
    b.fill("#noz-name", "Field 12").await?;
    b.fill("#noz-pressure", "lots").await?;
    b.fill("#noz-radius", "12.2 ft").await?;
    b.fill("#noz-flow", "2.77 gpm").await?;
    b.click("form[hx-post$='/catalogue/add'] .btn-line").await?;
    b.until("#err-noz-pressure", |t| !t.is_empty()).await?;
    ensure!(b.value("#noz-flow").await? == "2.77 gpm", "nothing typed is lost");
    b.fill("#noz-pressure", "40 psi").await?;
    b.click("form[hx-post$='/catalogue/add'] .btn-line").await?;
    b.until_js(
        "return document.querySelectorAll('#nozzle table tbody tr').length",
        |n| n == "3",
    )
    .await?;
    // On the truck: the next layout of its kind uses it.
    b.click("tr.chosen input[type=checkbox]").await?;
    b.until_js(
        "return document.querySelector('tr.chosen input[type=checkbox]')?.checked",
        |c| c == "true",
    )
    .await?;
    open(&b, HOUSE).await?;
    pick(&b, "a6").await?;
    b.pick("#lay-kind", "spray").await?;
    b.click("[data-keep=layout] .btn-earth").await?;
    b.until_js(
        "return document.querySelectorAll('#board .head[data-nozzle=\"own-field-12\"]').length",
        |n| n.parse::<usize>().is_ok_and(|n| n > 8),
    )
    .await?;
    ensure!(
        b.until_js(
            "return [...document.querySelectorAll('#board .head')].every(h => \
        h.dataset.nozzle.startsWith('own'))",
            |_| true
        )
        .await?
            == "true"
    );
    // Out again as it came in; a nozzle in use can't be taken away.
    b.go("/jobs/3/catalogue?nozzle=own-field-12").await?;
    b.click("#nozzle .danger").await?;
    b.until_says("#notice", "use it").await?;
    b.quit().await?;
    site.stop().await
}
