//! A whole house by the keyboard alone, its keys counted; focus that goes on where the work does; steps that
//! stand where the eye is; a split that is looked at first; kinds that come as they are found.

use anyhow::{Result, ensure};
use fenlo_e2e::{Browser, Site};
use thirtyfour::prelude::*;

const TAB: &str = "\u{E004}";
const ENTER: &str = "\u{E007}";
const ESCAPE: &str = "\u{E00C}";
const RIGHT: &str = "\u{E014}";
const UP: &str = "\u{E013}";
const LEFT: &str = "\u{E012}";
const DOWN: &str = "\u{E015}";

/// Keys of a keyboard, counted.
struct Keyboard<'b> {
    b: &'b Browser,
    pressed: std::cell::Cell<usize>,
}

impl Keyboard<'_> {
    async fn press(&self, keys: &str) -> Result<()> {
        for key in keys.chars() {
            self.b.keys(&key.to_string()).await?;
        }
        self.pressed.set(self.pressed.get() + keys.chars().count());
        Ok(())
    }

    /// A rectangle of ground beside what is there, and its name.
    async fn rectangle(&self, along: &str, up: &str, name: &str, things: usize) -> Result<()> {
        self.press("r").await?;
        self.press(&format!("{along}{TAB}{up}{ENTER}")).await?;
        self.b.until_js(THINGS, |n| n == things.to_string()).await?;
        self.at("thing-name").await?;
        self.press(&format!("{name}{ENTER}")).await?;
        self.at("stage").await?;
        self.b.until_says("#sheet h2", name).await?;
        Ok(())
    }

    /// The keys go to this now.
    async fn at(&self, id: &str) -> Result<()> {
        self.b.until_js("return document.activeElement.id || ''", |i| i == id).await?;
        Ok(())
    }
}

/// Ground that is drawn, without heads.
const THINGS: &str = "return document.querySelectorAll('#y-ground > .thing').length";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_whole_house_by_keys_in_under_four_hundred() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    let k = Keyboard { b: &b, pressed: std::cell::Cell::new(0) };
    b.go("/").await?;
    // The job, and its water: a reading, the line, the meter.
    k.press(&format!("nOak End{ENTER}")).await?;
    b.until_says("h1", "Water").await?;
    k.press(&format!("n66{ENTER}")).await?;
    b.until_says("#w-curve", "Rule of thumb").await?;
    for (part, nth) in [("p", 1), ("m", 2)] {
        // What was added has the keys: out of it, and on.
        b.until_js("return document.activeElement.tagName", |t| t != "BODY").await?;
        k.press(&format!("{ESCAPE}n{part}{TAB}{ENTER}")).await?;
        b.find(&format!(".chain > li:nth-child({nth})")).await?;
    }
    b.until("#w-design .figure", |t| t.contains("gpm") && !t.contains('–')).await?;
    // The ground: a house, lawns and where valves stand. Digits are lengths, never pages.
    k.press(&format!("{ESCAPE}2")).await?;
    b.until_says("#board-teach", "Draw the site to scale").await?;
    k.at("stage").await?;
    k.press("d").await?;
    k.rectangle("40", "28", "House", 1).await?;
    k.press("a").await?;
    for (i, (along, up, name)) in
        [("50", "24", "Front lawn"), ("60", "40", "Back lawn"), ("30", "16", "Side lawn")]
            .into_iter()
            .enumerate()
    {
        k.rectangle(along, up, name, i + 2).await?;
        // Heads on it at once: by the key, or by the button, after which the next step has the keys.
        if i == 0 {
            k.press("o").await?;
        } else {
            let lay_out = "document.querySelector('#sheet form:has(#lay-kind) .btn-earth').focus()";
            b.driver.execute(lay_out, vec![]).await?;
            k.press(ENTER).await?;
        }
        b.until_says("#sheet .next-step", "not on a valve").await?;
        if i > 0 {
            let on = "return String(document.activeElement.matches('#sheet .next-step .btn-earth'))";
            b.until_js(on, |s| s == "true").await?;
            k.press(ESCAPE).await?;
        }
    }
    // A bed by corners: where the first lies, then lengths along arrows.
    k.press("a").await?;
    k.press(&format!("0{TAB}60{ENTER}")).await?;
    k.press(&format!("{RIGHT}20{ENTER}{UP}8{ENTER}{LEFT}20{ENTER}")).await?;
    ensure!(b.driver.current_url().await?.path().ends_with("/ground"), "a digit led away");
    k.press(ENTER).await?;
    b.until_js(THINGS, |n| n == "5").await?;
    k.at("thing-name").await?;
    k.press(&format!("Bed{ENTER}")).await?;
    k.press("p").await?;
    k.press(&format!("42{TAB}2{ENTER}")).await?;
    // All heads onto valves, from where the eye is.
    k.press(&format!("{ESCAPE}{ESCAPE}")).await?;
    b.until_says("#sheet .next-step", "not on a valve").await?;
    k.press("s").await?;
    b.until_js("return document.querySelectorAll('#sheet .next-step').length", |n| n == "0").await?;
    // Every valve is regulated as its zone wants.
    k.press("4").await?;
    b.until_says("h1", "Valves").await?;
    let rack = b.until("#v-rack", |t| t.contains("Front lawn") && t.contains("psi")).await?;
    ensure!(rack.contains("Back lawn") && rack.contains("Side lawn"), "{rack}");
    ensure!(!rack.contains("Stop"), "{rack}");
    k.press("5").await?;
    b.until_says("h1", "Pressure").await?;
    // Arrows go through the list of valves without loading the page; Enter shows the one chosen.
    b.driver.execute("window.kept = 1; document.getElementById('pick-valve').focus()", vec![]).await?;
    k.press(DOWN).await?;
    b.until_js("return String(window.kept)", |v| v == "1").await?;
    k.press(ENTER).await?;
    b.until_js("return String(window.kept)", |v| v != "1").await?;
    ensure!(b.driver.current_url().await?.query().is_some_and(|q| q.contains("valve=")));
    ensure!(k.pressed.get() < 400, "{} keys", k.pressed.get());
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_split_is_looked_at_before_it_is_done_and_a_job_rests_when_deleted() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/1/valves").await?;
    let before = b.text("#v-total").await?;
    b.click("[hx-get$='/valves/split']").await?;
    b.until_says("#v-split", "after reassigning").await?;
    // The panel has the focus; leaving it gives it back, and nothing was done.
    b.until_js("return String(document.activeElement.classList.contains('split-look'))", |s| s == "true")
        .await?;
    b.click("#v-split [data-close]").await?;
    b.until_js("return document.getElementById('v-split').childElementCount", |n| n == "0").await?;
    ensure!(b.text("#v-total").await? == before);
    b.click("[hx-get$='/valves/split']").await?;
    b.click("#v-split .btn-earth").await?;
    b.until("#v-total", |t| t != before).await?;
    b.click("#undo-button").await?;
    b.until("#v-total", |t| t == before).await?;

    // Kept as a template, begun from, deleted and brought back.
    b.go("/jobs/1/details").await?;
    b.fill("#copy-name", "Greens as we build them").await?;
    b.click("[name=as][value=template]").await?;
    b.until_says("#shelf", "This is a template").await?;
    b.go("/").await?;
    ensure!(!b.text("#jobs").await?.contains("Greens as we build them"));
    b.fill("#new-name", "New green").await?;
    let pick = b.find("#new-from").await?;
    pick.send_keys("Greens").await?;
    b.click(".card-form .btn-earth").await?;
    b.until_says(".job-name", "New green").await?;
    b.go(&format!("{}/details", job(&b).await?)).await?;
    b.click("[name=sure]").await?;
    b.click("form[action$='/delete'] button").await?;
    b.until_says("h1", "Jobs").await?;
    ensure!(!b.text("#jobs").await?.contains("New green"));
    b.go("/?on=deleted").await?;
    b.until_says("#jobs", "Deleted permanently in 30 days").await?;
    b.click("#jobs button[value=back]").await?;
    b.until_says("#jobs", "New green").await?;
    b.quit().await?;
    site.stop().await
}

async fn job(b: &Browser) -> Result<String> {
    let url = b.driver.current_url().await?;
    let parts: Vec<&str> = url.path().split('/').take(3).collect();
    Ok(parts.join("/"))
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn help_stands_over_its_step_and_no_page_has_a_word_for_the_console() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/1/water").await?;
    b.click("#help-open").await?;
    b.until_says("#help", "How to measure: Water").await?;
    let text = b.text("#help").await?;
    ensure!(text.contains("550 kPa") && !text.contains("psi"), "in the job's units: {text}");
    b.fill("#help-q", "mist").await?;
    b.until_says("#help-found", "Fogging or misting at the heads").await?;
    b.keys(ESCAPE).await?;
    b.until_js("return String(document.getElementById('help').open)", |o| o == "false").await?;
    // Kinds come as they are found: the first cards stand while others are still tried.
    b.go("/jobs/2/layout").await?;
    b.click("#layout-form .btn-earth").await?;
    b.until_js(
        "return document.querySelectorAll('#layout-ways .way').length > 0 && \
            !!document.getElementById('layout-run')",
        |t| t == "true",
    )
    .await?;
    // The bar is shown anew three times a second, the button beside it stands.
    b.click("#layout-run .btn-line").await?;
    b.until_js("return String(!!document.getElementById('layout-run'))", |r| r == "false").await?;
    ensure!(b.driver.find_all(By::Css("#layout-ways .way")).await?.len() > 1);
    b.quit().await?;
    site.stop().await
}
