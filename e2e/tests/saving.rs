//! 'Saved' means saved: whatever becomes of an edit is said, and nothing typed is lost.

use anyhow::{Result, ensure};
use fenlo_e2e::{Browser, Site};

const WATER: &str = "/jobs/3/water";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn forms_wait_for_a_server_that_went_away_and_are_sent_once() -> Result<()> {
    let mut site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go(WATER).await?;
    let edits = "return document.getElementById('base').value";
    let before: i64 = b.until_js(edits, |n| !n.is_empty()).await?.parse()?;
    site.kill();
    b.fill("#reading-0-pressure", "58 psi").await?;
    b.until_says("#saving", "1 change not yet saved").await?;
    ensure!(b.attr("#reading-0-pressure", "data-unsaved").await?.is_empty(), "it is marked at its field");
    // A second one waits behind the first.
    b.fill("#reading-0-pressure", "59 psi").await?;
    b.until_says("#saving", "2 changes not yet saved").await?;
    site.revive().await?;
    b.until("#saving", |t| t == "saved").await?;
    let marked = "return document.querySelectorAll('[data-unsaved]').length";
    b.until_js(marked, |n| n == "0").await?;
    b.driver.refresh().await?;
    ensure!(b.value("#reading-0-pressure").await? == "59 psi", "the later one counts");
    let after: i64 = b.until_js(edits, |n| !n.is_empty()).await?.parse()?;
    ensure!(after == before + 2, "each was done once: {before} to {after}");

    // A page that was left while it waited: the next page sends what lies there.
    site.kill();
    b.fill("#reading-0-pressure", "61 psi").await?;
    b.until_says("#saving", "1 change not yet saved").await?;
    site.revive().await?;
    b.go("/jobs/3/heads").await?;
    b.until("#saving", |t| t == "saved").await?;
    b.go(WATER).await?;
    ensure!(b.value("#reading-0-pressure").await? == "61 psi");
    let last: i64 = b.until_js(edits, |n| !n.is_empty()).await?.parse()?;
    ensure!(last == after + 1, "once: {after} to {last}");

    // Two tabs of one browser find the same waiting edit: both send it, it is done once.
    site.kill();
    b.fill("#reading-0-pressure", "63 psi").await?;
    b.until_says("#saving", "1 change not yet saved").await?;
    let first = b.driver.window().await?;
    let second = b.driver.new_tab().await?;
    site.revive().await?;
    b.driver.switch_to_window(second).await?;
    b.go(WATER).await?;
    b.until("#saving", |t| t == "saved").await?;
    b.driver.switch_to_window(first).await?;
    b.until("#saving", |t| t == "saved").await?;
    b.driver.refresh().await?;
    ensure!(b.value("#reading-0-pressure").await? == "63 psi");
    let both: i64 = b.until_js(edits, |n| !n.is_empty()).await?.parse()?;
    ensure!(both == last + 1, "once: {last} to {both}");
    b.quit().await?;
    site.stop().await
}

/// The next request of the page goes to another address.
const ASTRAY: &str = "const open = XMLHttpRequest.prototype.open; XMLHttpRequest.prototype.open = function \
    (m, u, ...r) \
    { XMLHttpRequest.prototype.open = open; return open.call(this, m, '/health', ...r); };";

/// A figure is typed and its part of the page is replaced before the server answers; the answer is held for a while.
const GONE: &str = "const send = XMLHttpRequest.prototype.send; XMLHttpRequest.prototype.send = function (...r) \
    { XMLHttpRequest.prototype.send = send; setTimeout(() => send.apply(this, r), 800); }; \
    const f = document.getElementById('reading-0-pressure'); f.value = '62 psi'; \
    f.dispatchEvent(new Event('change', {bubbles: true})); \
    setTimeout(() => f.closest('[id]:not(input)').remove(), 100);";

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn what_is_refused_stays_told_until_it_is_mended_or_sent_again() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go(WATER).await?;
    // A form that the server does not take (405), then a good edit of another field.
    b.driver.execute(ASTRAY, vec![]).await?;
    b.fill("#reading-0-pressure", "57 psi").await?;
    b.until_says("#saving", "not saved: ").await?;
    b.fill("#reading-1-pressure", "51 psi").await?;
    b.until_js("return document.querySelectorAll('.htmx-request').length", |n| n == "0").await?;
    let said = b.text("#saving").await?;
    ensure!(said.contains("not saved"), "the first is still not saved: {said}");
    b.click("#saving button:last-child").await?;
    b.until("#saving", |t| t == "saved").await?;
    b.driver.refresh().await?;
    ensure!(b.value("#reading-0-pressure").await? == "57 psi", "sent again");
    ensure!(b.value("#reading-1-pressure").await? == "51 psi");

    // A figure that can't be: told at its field and above, until a good one stands there.
    b.fill("#reading-0-pressure", "lots").await?;
    b.until_says("#err-reading-0-pressure", "is not a valid pressure").await?;
    b.until_says("#saving", "not saved: ").await?;
    b.fill("#reading-0-pressure", "60 psi").await?;
    b.until("#saving", |t| t == "saved").await?;

    // A form that is taken off the page while its answer is under way is stored all the same, and said to be.
    b.driver.execute(GONE, vec![]).await?;
    b.until("#saving", |t| t == "saving…").await?;
    b.until("#saving", |t| t == "saved").await?;
    b.driver.refresh().await?;
    ensure!(b.value("#reading-0-pressure").await? == "62 psi");

    // A second click before the answer is no second wish.
    b.go("/").await?;
    b.fill("#new-name", "Twice").await?;
    let twice = "const f = document.querySelector('form[action=\"/jobs\"]'); const key = \
        f.elements.key.value; \
        const go = () => fetch('/jobs', {method: 'POST', body: new URLSearchParams(new FormData(f))}); \
        const done = arguments[0]; Promise.all([go(), go()]).then(all => done(all.map(r => r.url).join(' \
        ')));";
    let went = b.driver.execute_async(twice, vec![]).await?;
    let went = went.json().as_str().unwrap_or_default().to_owned();
    let (first, second) = went.split_once(' ').unwrap_or_default();
    ensure!(first == second && first.ends_with("/water"), "one job: {went}");
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn forms_that_lead_elsewhere_wait_for_the_server_too() -> Result<()> {
    let mut site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    // A price that is put in while the server is away: it waits, and is there once.
    b.go("/prices").await?;
    site.kill();
    for (field, text) in [("#put-number", "K-77"), ("#put-supplier", "North"), ("#put-price", "12.50")] {
        b.fill(field, text).await?;
    }
    let put = "form[action='/prices/put']";
    b.click(&format!("{put} button")).await?;
    b.until_says(&format!("{put} .form-says"), "Not saved: no connection").await?;
    ensure!(b.value("#put-price").await? == "12.50", "nothing typed is lost");
    site.revive().await?;
    b.until_says("#page", "K-77").await?;
    b.go("/prices?search=K-77").await?;
    let rows = "return [...document.querySelectorAll('#page td')].filter(t => t.textContent.trim() == \
        'K-77').length";
    b.until_js(rows, |n| n == "1").await?;

    // A new job is begun once, and can be called off while it waits.
    b.go("/").await?;
    site.kill();
    b.fill("#new-name", "Behind the barn").await?;
    let new = "form[action='/jobs']";
    b.click(&format!("{new} .btn-earth")).await?;
    b.until_says(&format!("{new} .form-says"), "Not saved").await?;
    b.click(&format!("{new} .form-says button")).await?;
    site.revive().await?;
    b.go("/").await?;
    ensure!(!b.text("#page").await?.contains("Behind the barn"), "it was called off");
    b.fill("#new-name", "Behind the mill").await?;
    b.click(&format!("{new} .btn-earth")).await?;
    b.until_says(".job-name", "Behind the mill").await?;

    // A figure that can't be comes back at its place, as ever; of two buttons the one that was pressed counts.
    b.go("/prices").await?;
    for (field, text) in [("#put-number", "K-78"), ("#put-supplier", "North"), ("#put-price", "dear")] {
        b.fill(field, text).await?;
    }
    b.click(&format!("{put} button")).await?;
    b.until_says("#page", "(got ‘dear’)").await?;
    b.click(".message button").await?;
    b.until_says(&format!("{put} .form-says"), "(got ‘dear’)").await?;
    ensure!(b.value("#put-number").await? == "K-78", "nothing typed is lost");
    b.go("/jobs/3/details").await?;
    b.click("form[action='/jobs/3/copy'] button[value='template']").await?;
    b.until_says("#page", "emplate").await?;
    b.quit().await?;
    site.stop().await
}
