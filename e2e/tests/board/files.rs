//! Drawings, scans and charts in and out.

use super::*;

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_drawing_comes_in_by_layers_and_goes_out_again() -> Result<()> {
    let site = Site::start().await?;
    let b = Browser::open(&site.address, 1280, 800).await?;
    open(&b, GREEN).await?;
    let folder =
        std::fs::canonicalize(concat!(env!("CARGO_MANIFEST_DIR"), "/../crates/formats/tests/drawings"))?;
    let folder = folder.display();
    b.click("[data-keep=files] > summary").await?;
    b.find("#import-file").await?.send_keys(format!("{folder}/plot-feet.dxf")).await?;
    b.click(".import .btn-line").await?;
    b.until_says("h1", "plot-feet.dxf").await?;
    b.until_says("table", "GRASS").await?;
    ensure!(b.value("#import-unit").await? == "0.3048", "the header says feet");
    b.until_says("main", "dimensions").await?;
    b.click(".btn-earth").await?;
    b.until_says("main", "Imported").await?;
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
    b.click("[data-keep=files] > summary").await?;
    b.find("#import-file").await?.send_keys(format!("{folder}/README.md")).await?;
    b.click(".import .btn-line").await?;
    b.until_says("#notice", "is not a code of DXF").await?;
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
    b.until_js("return document.querySelectorAll('#board .waiting').length", |n| n == "0").await?;
    b.click_ground((8.1, 1.9)).await?;
    b.click_ground((14.0, 7.9)).await?;
    b.until_js(THINGS, |n| n == "2").await?;
    b.until_js("return document.querySelectorAll('#board .waiting').length", |n| n == "0").await?;
    let all =
        "return [...document.querySelectorAll('#board [data-rings]')].map(e => e.dataset.rings).join('|')";
    let drawn = b.until_js(all, |r| r.contains('|')).await?;
    let rings: Vec<Vec<Vec<[f64; 3]>>> =
        drawn.split('|').map(serde_json::from_str).collect::<Result<_, _>>()?;
    let corner = rings[0][0]
        .iter()
        .find(|c| c[0] > 5.0 && c[1] < 5.0)
        .ok_or_else(|| anyhow::anyhow!("no lower right corner"))?;
    ensure!(
        rings[1][0].iter().any(|c| (c[0] - corner[0]).abs() < 1e-9 && (c[1] - corner[1]).abs() < 1e-9),
        "{drawn}"
    );
    // Both picked, joined, taken back.
    b.keys("v").await?;
    b.find("#stage").await?.send_keys("\u{E009}a").await?;
    b.until_says("#sheet h2", "2 selected").await?;
    b.click("#sheet button[value=join]").await?;
    b.until_js(THINGS, |n| n == "1").await?;
    b.click("#undo-button").await?;
    b.until_js(THINGS, |n| n == "2").await?;

    // A scan beneath: scaled by two points and a typed length.
    let scan = std::fs::canonicalize(concat!(env!("CARGO_MANIFEST_DIR"), "/../crates/web/tests/scan.png"))?;
    b.click("[data-keep=picture] > summary").await?;
    b.find("#picture-file").await?.send_keys(scan.display().to_string()).await?;
    b.click("[data-keep=picture] form .btn-line").await?;
    let wide = "return document.querySelector('#y-underlay image')?.getAttribute('width') ?? 'none'";
    let before: f64 = b.until_js(wide, |w| w != "none").await?.parse()?;
    open(&b, GREEN).await?;
    b.click("[data-tool=scale]").await?;
    b.click_ground((3.0, 10.0)).await?;
    b.click_ground((5.0, 10.0)).await?;
    b.find("#entry-length").await?.send_keys(format!("4 m{ENTER}")).await?;
    let after: f64 =
        b.until_js(wide, |w| w.parse::<f64>().is_ok_and(|w| (w - before).abs() > 0.1)).await?.parse()?;
    ensure!((after / before - 2.0).abs() < 0.1, "{before} to {after}: 2 m were 4 m");
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
    b.until_says(".chart-faults", "pressure is ‘thirty’: expected a number over zero").await?;
    ensure!(b.text(".chart-faults td").await? == "4");
    ensure!(
        b.until_js("return document.querySelectorAll('.kind-group .pill').length", |_| true).await? == "0",
        "nothing is saved before it was seen"
    );
    b.click("#chart-preview .btn-earth").await?;
    b.until_says("#nozzle h2", "Field 12").await?;
    b.until_says("#nozzle", "Show math, fit").await?;
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
    b.until_js("return document.querySelectorAll('#nozzle table tbody tr').length", |n| n == "3").await?;
    // On the truck: the next layout of its kind uses it.
    b.click("tr.chosen input[type=checkbox]").await?;
    b.until_js("return document.querySelector('tr.chosen input[type=checkbox]')?.checked", |c| c == "true")
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
    b.until_says("#notice", "uses this nozzle").await?;
    b.quit().await?;
    site.stop().await
}
