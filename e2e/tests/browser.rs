//! An installer at the real pages.

use anyhow::{Context, Result, ensure};
use fenlo_e2e::{Browser, Site};
use thirtyfour::prelude::*;

const CORNER_PLOT: &str = "/jobs/3";
/// Keys as WebDriver names them.
const TAB: &str = "\u{E004}";
const ENTER: &str = "\u{E007}";
const ESCAPE: &str = "\u{E00C}";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn from_an_empty_job_to_a_remedy_and_back() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/").await?;
    b.fill("#new-name", "Orchard House").await?;
    b.click(".card-form .btn-earth").await?;
    b.until_says("h1", "Water").await?;

    // Readings and the chain: figures follow without a reload.
    b.until_says("#w-curve", "gauge").await?;
    b.fill("#new-static-pressure", "66").await?;
    b.click(".adder[open] .btn-line").await?;
    b.until_says("#w-curve", "Rule of thumb").await?;
    for part in ["pipe", "meter", "vacuum-breaker"] {
        let before = b.driver.find_all(By::Css(".chain > li")).await?.len();
        b.pick("#add-part", part).await?;
        b.click("#w-chain form:last-of-type .btn-line").await?;
        b.find(&format!(".chain > li:nth-child({})", before + 1)).await?;
    }
    let design = b.until("#w-design .figure", |t| t.contains("gpm") && !t.contains('–')).await?;
    ensure!(design.contains("16.2"), "7 ft/s in 1 in copper less 10 %: {design}");
    b.until(".chain > li:nth-child(2)", |t| t.contains("psi at")).await?;

    // Heads go to valves at once.
    b.go(&format!("{}/heads", job_path(&b).await?)).await?;
    b.fill("#new-name", "Long bed").await?;
    b.pick("#new-nozzle", "spray-12").await?;
    b.fill("#new-count", "8").await?;
    b.click(".add-group .btn-earth").await?;
    b.until_says("#h-total", "8 heads").await?;
    b.until_says(".group .soft", "valve 1").await?;

    // A longer row of thinner pipe far away starves its last head.
    b.pick("#g1-pipe", "pe-sidr-15 1/2in").await?;
    b.fill("#g1-distance", "90 ft").await?;
    b.fill("#g1-rise", "6").await?;
    b.until(".group .soft", |t| t.contains("lowest")).await?;
    // The last field is still being saved: leaving the page would cut it off.
    b.until_js("return document.querySelectorAll('.htmx-request').length", |n| n == "0").await?;
    b.go(&format!("{}/valves", job_path(&b).await?)).await?;
    b.until_says("#v-findings", "Too little pressure at the weakest head").await?;
    let before = b.text(".lane").await?;

    // The remedy gives what its button says; undo takes it back.
    let remedy = b.text("#v-findings .remedy button").await?;
    let promised = remedy
        .rsplit(": ")
        .next()
        .and_then(|t| t.split(" psi").next())
        .context("a figure on the button")?
        .to_owned();
    b.click("#v-findings .remedy button").await?;
    b.until(".lane", |t| t.contains(&promised)).await?;
    b.click("#undo-button").await?;
    b.until(".lane", |t| t == before).await?;
    b.click("#redo-button").await?;
    b.until(".lane", |t| t.contains(&promised)).await?;

    // Everything was saved on the way.
    b.driver.refresh().await?;
    b.until(".lane", |t| t.contains(&promised)).await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn by_keyboard_alone() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go(&format!("{CORNER_PLOT}/water")).await?;
    let body = b.find("body").await?;
    body.send_keys("?").await?;
    b.until_says("#help", "How to measure: Water").await?;
    b.click("#help [data-keys]").await?;
    b.until_says("#keys", "Keyboard").await?;
    keys(&b, ESCAPE).await?;
    keys(&b, "4").await?;
    b.until_says("h1", "Valves").await?;

    // To the lane of valve 4, its heads, and two of them to a new valve: Tab, Space and Enter only.
    tab_to(&b, "a.lane[href$='valve=v4']").await?;
    keys(&b, ENTER).await?;
    b.until_says(".detail h2", "Side strip").await?;
    tab_to(&b, "input[name=head]").await?;
    keys(&b, " ").await?;
    keys(&b, TAB).await?;
    keys(&b, " ").await?;
    tab_to(&b, "#move-to").await?;
    keys(&b, "a new").await?;
    tab_to(&b, ".heads-form .btn-line").await?;
    keys(&b, ENTER).await?;
    b.until_says("#v-total", "6 valves").await?;
    // Ctrl+Z outside a field takes it back.
    b.driver.execute("document.activeElement.blur()", vec![]).await?;
    b.find("body").await?.send_keys(Key::Control + "z").await?;
    b.until_says("#v-total", "5 valves").await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn wrong_figures_are_said_at_their_field_and_nothing_typed_is_lost() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go(&format!("{CORNER_PLOT}/water")).await?;
    let design = b.text("#w-design .figure").await?;
    for (typed, said) in [
        ("abc", "is not a valid pressure"),
        ("-5 psi", "must be more than zero"),
        ("9000 psi", "over 300 psi"),
        ("12 gpm", "is not a unit of pressure"),
    ] {
        b.fill("#reading-0-pressure", typed).await?;
        b.until_says("#err-reading-0-pressure", said).await?;
        ensure!(b.value("#reading-0-pressure").await? == typed);
    }
    ensure!(b.text("#w-design .figure").await? == design, "nothing was half-saved");
    // Pressure that rises with flow can be saved, for it was read; the curve says what is wrong.
    b.fill("#reading-0-pressure", "50").await?;
    b.until_says("#w-curve", "cannot rise with flow").await?;
    b.until("#err-reading-0-pressure", str::is_empty).await?;
    b.fill("#reading-0-pressure", "62 psi").await?;
    b.until_says("#w-curve", "Rule of thumb").await?;

    b.go(&format!("{CORNER_PLOT}/heads")).await?;
    b.fill("#g1-a180", "-3").await?;
    b.until_says("#err-g1-a180", "enter a whole number").await?;
    b.fill("#g1-a180", "6").await?;
    b.fill("#g1-spacing", "0").await?;
    b.until_says("#err-g1-spacing", "more than zero").await?;
    for path in ["/jobs/999/water", "/jobs/3/water?supply=nope", "/nowhere", "/jobs/x/valves"] {
        b.go(path).await?;
        let text = b.text("body").await?;
        ensure!(
            !text.contains("NaN")
                && (text.contains("Page not found")
                    || text.contains("Cannot parse")
                    || text.contains("Invalid URL")),
            "{path}: {text}"
        );
    }
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn two_people_at_one_job() -> Result<()> {
    let site = Site::start().await?;
    let (a, b) =
        (Browser::open(&site.address, 1280, 800).await?, Browser::open(&site.address, 1280, 800).await?);
    for browser in [&a, &b] {
        browser.go(&format!("{CORNER_PLOT}/heads")).await?;
        browser.find("#g1-spacing").await?;
    }
    a.fill("#g1-spacing", "11 ft").await?;
    a.until_says("#saving", "saved").await?;
    // Another area merges, the same one is refused with what to do; the typed figure stays.
    b.fill("#g2-distance", "40 ft").await?;
    b.until_says("#saving", "saved").await?;
    b.go(&format!("{CORNER_PLOT}/heads")).await?;
    ensure!(b.value("#g1-spacing").await? == "11 ft" && b.value("#g2-distance").await? == "40 ft");
    a.go(&format!("{CORNER_PLOT}/heads")).await?;
    a.fill("#g1-spacing", "10 ft").await?;
    a.until("#undo-button", |_| true).await?;
    a.until_says("#group-says-g1", "heads").await?;
    b.fill("#g1-spacing", "13 ft").await?;
    b.until_says("#notice", "Someone else changed this").await?;
    ensure!(b.value("#g1-spacing").await? == "13 ft");
    a.quit().await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn pages_fit_their_windows_and_axe_finds_nothing_serious() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    let pages = [
        "/",
        "/quick",
        "/jobs/3/water",
        "/jobs/3/heads",
        "/jobs/3/valves?valve=v4",
        "/jobs/3/pressure?valve=v1&look=2",
        "/jobs/3/details",
        "/jobs/2/valves",
        "/jobs/1/water",
        "/jobs/3/ground",
        "/jobs/1/ground",
    ];
    for (width, height) in [(1280, 800), (820, 1100), (390, 844)] {
        b.resize(width, height).await?;
        for page in pages {
            b.go(page).await?;
            b.find("h1").await?;
            ensure!(!b.overflows().await?, "{page} is wider than {width}");
            if width != 820 {
                let found = b.axe().await?;
                ensure!(found.is_empty(), "{page} at {width}: {}", found.join("\n"));
            }
            let text = b.text("body").await?;
            ensure!(!text.contains("NaN") && !text.contains("inf "), "{page}");
        }
    }
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn quick_check_answers_while_typing_and_becomes_a_job() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/quick").await?;
    b.until_says("#answer", "heads fit on a valve").await?;
    let first = b.text("#answer .figure.big").await?;
    b.pick("#q-pipe", "class-200 1in").await?;
    b.until("#answer .figure.big", |t| t != first).await?;
    b.fill("#q-static", "0").await?;
    b.until_says("#answer", "must be more than zero").await?;
    b.fill("#q-static", "64").await?;
    b.until_says("#answer", "Compare regulators").await?;
    b.click("#answer form .btn-line").await?;
    b.until_says("h1", "Water").await?;
    b.until_says(".job-name", "9 spray-12").await?;
    b.quit().await?;
    site.stop().await
}

async fn job_path(b: &Browser) -> Result<String> {
    let url = b.driver.current_url().await?;
    let mut parts = url.path().split('/').skip(1);
    Ok(format!("/{}/{}", parts.next().unwrap_or_default(), parts.next().unwrap_or_default()))
}

/// Keys to whatever has the focus.
async fn keys(b: &Browser, keys: &str) -> Result<()> {
    Ok(b.driver.active_element().await?.send_keys(keys).await?)
}

/// Presses Tab until the element has the focus.
async fn tab_to(b: &Browser, css: &str) -> Result<()> {
    for _ in 0..150 {
        let there =
            b.driver.execute(format!("return document.activeElement.matches({css:?})"), vec![]).await?;
        if there.convert()? {
            return Ok(());
        }
        keys(b, TAB).await?;
    }
    anyhow::bail!("Tab does not reach {css}")
}
