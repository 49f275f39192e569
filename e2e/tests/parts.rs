//! Parts: a line is opened and its places light up, another quantity is said, a quote is kept and shown by a
//! link, the packet is printed.

use anyhow::{Result, ensure};
use fenlo_e2e::{Browser, Site};

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_list_is_read_changed_quoted_and_shared() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/3/times").await?;
    b.until_says("h1", "Run times").await?;
    b.find("body").await?;
    b.keys("7").await?;
    b.until_says("h1", "Parts").await?;
    // No prices yet: said, not shown as nothing.
    b.until_says("#money", "No prices for these parts").await?;
    let line =
        "[...document.querySelectorAll('.part-line')].find(l => l.textContent.includes('Pop-up body'))";
    b.until_js(&format!("const l = {line}; l.open = true; return l.open"), |o| o == "true").await?;
    b.until_says(".part-line[open]", "one per head").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.fill(".part-line[open] input[name=quantity]", "99").await?;
    b.click(".part-line[open] button").await?;
    b.until_says("#page", "edited").await?;
    b.until_says("#saving", "saved").await?;
    b.click("#undo-button").await?;
    b.until_js("return document.querySelector('#page').textContent.includes('edited')", |has| has == "false")
        .await?;

    b.go("/jobs/3/quote").await?;
    b.until_says("#quote-now", "Total").await?;
    b.until_says("#quote-now", "no price").await?;
    b.fill("#keep-note", "first").await?;
    b.click("#quote-now form button").await?;
    b.until_says("#quote-versions", "Version 1").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.pick("#share-what", "quote").await?;
    b.click("#quote-versions form button").await?;
    let link = b
        .until_js("return document.querySelector('#new-link')?.value ?? ''", |l| l.starts_with("http"))
        .await?;
    let token = link.rsplit('/').next().unwrap_or_default();
    let path = format!("/shared/{token}");
    b.go(&path).await?;
    b.until_says("#page", "Quote dated").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.resize(390, 844).await?;
    ensure!(!b.overflows().await?, "a shared quote fits a telephone");
    for page in ["/jobs/3/parts", "/jobs/3/quote", "/prices"] {
        b.go(page).await?;
        b.until_says("#page", if page == "/prices" { "Price book" } else { "" }).await?;
        ensure!(!b.overflows().await?, "{page} fits a telephone");
    }
    b.quit().await?;
    Ok(())
}
