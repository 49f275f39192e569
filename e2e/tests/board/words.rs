//! Where the words of the board stand, and refusals at their place.

use super::*;

/// Names, areas, perimeters and lengths that stand on the board, with where they stand in pixels.
const WORDS: &str = "return JSON.stringify([...document.querySelectorAll('#words .word')].map(w => { const \
    b = w.getBoundingClientRect(); return [w.textContent, b.left, b.top, b.right, b.bottom]; }))";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn every_length_stands_on_the_board_and_refusals_stand_at_their_place() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    // At rest the board tells names and areas; lengths and perimeters of what is pointed at or picked.
    let quiet = b.until_js(WORDS, |w| w.contains("Back lawn1,944 ft²")).await?;
    ensure!(!quiet.contains("perimeter") && !quiet.contains("104'"), "lengths stand there at rest: {quiet}");
    b.point_ground((30.0 * FT, 72.0 * FT)).await?;
    b.until_js(WORDS, |w| w.contains("perimeter")).await?;
    b.point_ground((-20.0 * FT, -20.0 * FT)).await?;
    b.until_js(WORDS, |w| !w.contains("perimeter")).await?;
    // All of them by a switch that is kept over a reload.
    b.click("#all-lengths").await?;
    b.until_js(WORDS, |w| w.contains("perimeter")).await?;
    open(&b, HOUSE).await?;
    let words = b.until_js(WORDS, |w| w.contains("perimeter")).await?;
    let words: Vec<(String, f64, f64, f64, f64)> = serde_json::from_str(&words)?;
    for told in [
        "Back lawn1,944 ft²perimeter 180'",
        "Hedge78 ft²perimeter 58'",
        "Patio64 ft²",
        "104'",
        "3'6\"",
        "4'8½\"",
    ] {
        ensure!(words.iter().any(|w| w.0 == told), "{told} is not on the board: {words:?}");
    }
    // None over another, but for a hair where letters end.
    for (i, a) in words.iter().enumerate() {
        for c in &words[..i] {
            let over = (a.3.min(c.3) - a.1.max(c.1) > 4.0) && (a.4.min(c.4) - a.2.max(c.2) > 4.0);
            ensure!(!over, "{a:?} lies over {c:?}");
        }
    }
    ensure!(b.text("#untold").await?.is_empty(), "something has no room on a house of this size");
    // Far off there is no room for all of them: it says how many.
    for _ in 0..9 {
        b.find("#stage").await?.send_keys("-").await?;
    }
    b.until_says("#untold", "at this scale").await?;
    b.click("#zoom-fit").await?;

    // Drawn across itself: refused at the crossing, (41, 24) in feet of a bow tie, and still in the hand.
    b.click("[data-tool=area]").await?;
    for (x, y) in [(124.0, 60.0), (144.0, 80.0), (144.0, 60.0), (124.0, 80.0)] {
        b.click_ground((x * FT, y * FT)).await?;
    }
    b.keys(ENTER).await?;
    b.until_says("#board-says.placed", "the outline crosses or touches itself").await?;
    let apart = "const m = document.getElementById('board-blame').getBoundingClientRect(); const p = new \
        DOMPoint(134 * 0.3048, -70 * \
        0.3048).matrixTransform(document.getElementById('board').getScreenCTM()); return \
        Math.hypot((m.left + m.right) / 2 - p.x, (m.top + m.bottom) / 2 - p.y)";
    let apart: f64 = b.until_js(apart, |_| true).await?.parse()?;
    ensure!(apart < 12.0, "the mark stands {apart} px from the crossing");
    ensure!(
        b.until_js("return document.querySelectorAll('#over .dot.placed').length", |_| true).await? == "4"
    );
    b.keys("\u{E003}").await?;
    b.click_ground((134.0 * FT, 55.0 * FT)).await?;
    let before: usize = b.until_js(THINGS, |_| true).await?.parse()?;
    b.keys(ENTER).await?;
    b.until_js(THINGS, |n| n.parse::<usize>().is_ok_and(|n| n == before + 1)).await?;
    b.quit().await?;
    site.stop().await
}

/// Leaders that run through a word: of each the distance from its middle line, in pixels, is looked at.
const CROSSED: &str = "const words = [...document.querySelectorAll('#words .word:has(.name)')].map(w => \
    [w.textContent, w.getBoundingClientRect()]); return \
    JSON.stringify([...document.querySelectorAll('#words .leader')].flatMap(l => { \
    const n = l.getTotalLength(), m = l.getScreenCTM(); return [0.1, 0.3, 0.5, 0.7, 0.9].map(t => \
    l.getPointAtLength(n * t).matrixTransform(m)).flatMap(p => words.filter(([, b]) => p.x > b.left + 3 && \
    p.x < \
    b.right - 3 && p.y > b.top + 3 && p.y < b.bottom - 3).map(([text]) => text)); }))";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn on_the_clinic_at_fit_all_no_leader_crosses_a_name() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, "/jobs/2/ground").await?;
    b.click("#zoom-fit").await?;
    b.until_js(WORDS, |w| w.len() > 200).await?;
    for all in [false, true] {
        if all {
            b.click("#all-lengths").await?;
            b.until_js(WORDS, |w| w.contains("perimeter")).await?;
        }
        let crossed = b.until_js(CROSSED, |_| true).await?;
        ensure!(crossed == "[]", "all lengths {all}: leaders run through {crossed}");
    }
    b.quit().await?;
    site.stop().await
}
