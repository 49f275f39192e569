//! Drip at the board: a bed laid, its soil changed, a corner dragged; an assembly built and broken by
//! keyboard.

use super::*;

/// Emitters drawn in all beds.
const DOTS: &str = "return [...document.querySelectorAll('#board .drip .dots')] \
    .reduce((n, p) => n + (p.getAttribute('d').match(/h0/g) ?? []).length, 0)";

fn count(text: &str) -> usize {
    text.parse().unwrap_or(0)
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_bed_is_laid_follows_its_soil_and_its_corners() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, HOUSE).await?;
    pick(&b, "a3").await?;
    b.until_says("#sheet h2", "Rose bed").await?;
    b.click("[data-keep=drip] .btn-earth").await?;
    let loam = count(&b.until_js(DOTS, |n| count(n) > 40).await?);
    b.until_says("[data-keep=drip]", "Tubing").await?;
    b.until_says("#saving", "saved").await?;

    // Another spacing is laid at once; what can't be is said at its field and nothing is lost.
    b.fill("#drip-spacing", "12 in").await?;
    let closer = count(&b.until_js(DOTS, |n| count(n) > loam).await?);
    b.fill("#drip-edge", "30 ft").await?;
    b.until_says("#err-drip-edge", "rows stay").await?;
    ensure!(count(&b.until_js(DOTS, |n| count(n) > 0).await?) == closer, "what was laid stays");
    b.fill("#drip-edge", "3 in").await?;

    // Sand asks for closer emitters when it is laid anew by the soil.
    b.pick("#thing-soil", "sand").await?;
    b.until_says("#saving", "saved").await?;
    b.click("[data-keep=drip] [value=again]").await?;
    let sand = count(&b.until_js(DOTS, |n| count(n) > closer).await?);

    // A corner is dragged out: more rows; undo takes it back.
    let corner = b
        .until_js(
            "const [ring] = JSON.parse(document.getElementById('t-a3').dataset.rings); \
             return JSON.stringify(ring.reduce((a, c) => (c[0] + c[1] > a[0] + a[1] ? c : a)))",
            |t| t.len() > 4,
        )
        .await?;
    let at: Vec<f64> = serde_json::from_str(&corner)?;
    // Rows follow the hand before it lets go; what is given up lies as it lay.
    b.hold_ground((at[0], at[1]), (at[0] + 1.6, at[1] + 1.2)).await?;
    b.until_js(DOTS, |n| count(n) > sand).await?;
    b.keys(ESCAPE).await?;
    b.let_go().await?;
    b.until_js(DOTS, |n| count(n) == sand).await?;
    b.drag_ground((at[0], at[1]), (at[0] + 1.6, at[1] + 1.2)).await?;
    b.until_js(DOTS, |n| count(n) > sand).await?;
    b.click("#undo-button").await?;
    b.until_js(DOTS, |n| count(n) == sand).await?;
    b.quit().await?;
    site.stop().await
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_hose_bib_is_put_together_by_keyboard_broken_and_mended() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    b.go("/jobs/3/assembly?valve=v5").await?;
    b.until_says("h1", "Valve assembly").await?;
    b.pick("#parts-start", "hose-bib").await?;
    let focus =
        |id: &str| format!("document.getElementById('{id}').focus(); return document.activeElement.id");
    b.until_js(&focus("begin"), |id| id == "begin").await?;
    b.keys(ENTER).await?;
    b.until_says(".assembly-parts", "Water hammer arrester").await?;
    b.until_says("#page", "No problems found").await?;
    // The timer after its breaker: told at the part why not; the key that broke it keeps its focus.
    b.until_js(&focus("down-3"), |id| id == "down-3").await?;
    b.keys(ENTER).await?;
    b.until_says(".assembly-fault", "Valve downstream of the vacuum breaker").await?;
    b.until_js("return document.activeElement.id", |id| id == "down-3").await?;
    b.keys(ENTER).await?;
    b.until_says("#page", "No problems found").await?;
    ensure!(b.axe().await?.is_empty(), "{:?}", b.axe().await?);
    b.resize(390, 800).await?;
    ensure!(!b.overflows().await?, "the parts fit a telephone");
    b.quit().await?;
    site.stop().await
}
