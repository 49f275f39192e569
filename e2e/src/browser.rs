use anyhow::{Context, Result, bail};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use thirtyfour::prelude::*;

/// Longer than any page takes on a loaded machine.
const PATIENCE: Duration = Duration::from_secs(15);

/// Headless Chromium behind a ChromeDriver of its own.
pub struct Browser {
    /// For what has no short form here.
    pub driver: WebDriver,
    chromedriver: Child,
    address: String,
}

impl Drop for Browser {
    fn drop(&mut self) {
        let _ = self.chromedriver.kill();
        let _ = self.chromedriver.wait();
    }
}

type Lines = std::io::Lines<BufReader<std::process::ChildStdout>>;

/// A ChromeDriver on a port that it picks itself.
fn start_driver() -> Result<(Child, u16, Lines)> {
    let started =
        Command::new("chromedriver").arg("--port=0").stdout(Stdio::piped()).stderr(Stdio::null()).spawn();
    let mut driver = started.context("chromedriver is not installed: run ./test")?;
    let mut lines = BufReader::new(driver.stdout.take().context("no output")?).lines();
    for line in &mut lines {
        if let Some((_, port)) = line?.split_once("successfully on port ") {
            return Ok((driver, port.trim_end_matches('.').parse()?, lines));
        }
    }
    let _ = driver.wait();
    bail!("chromedriver said no port")
}

impl Browser {
    /// A window of this viewport, on a site.
    pub async fn open(address: &str, width: u32, height: u32) -> Result<Self> {
        // Of several that start at once one may lose its port to another: it is started again.
        let mut tries = 0;
        let (chromedriver, port, lines) = loop {
            match start_driver() {
                Ok(started) => break started,
                Err(error) if tries == 4 => return Err(error),
                Err(_) => tries += 1,
            }
        };
        // A pipe that nobody drains stops the driver.
        std::thread::spawn(move || lines.for_each(drop));
        let mut capabilities = DesiredCapabilities::chrome();
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-dev-shm-usage",
            "--disable-gpu",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-quic",
        ] {
            capabilities.add_arg(flag)?;
        }
        let driver = WebDriver::new(&format!("http://127.0.0.1:{port}"), capabilities).await?;
        let browser = Self { driver, chromedriver, address: address.to_owned() };
        browser.resize(width, height).await?;
        Ok(browser)
    }

    /// Gives the viewport a size: the window is larger by its frame.
    pub async fn resize(&self, width: u32, height: u32) -> Result<()> {
        self.driver.set_window_rect(0, 0, width, height).await?;
        let inner = self.driver.execute("return [window.innerWidth, window.innerHeight]", vec![]).await?;
        let inner: [u32; 2] = inner.convert()?;
        self.driver
            .set_window_rect(
                0,
                0,
                width + width.saturating_sub(inner[0]),
                height + height.saturating_sub(inner[1]),
            )
            .await?;
        Ok(())
    }

    /// Opens a page of the site.
    pub async fn go(&self, path: &str) -> Result<()> {
        Ok(self.driver.goto(format!("{}{path}", self.address)).await?)
    }

    /// The element, once it is there.
    pub async fn find(&self, css: &str) -> Result<WebElement> {
        self.driver
            .query(By::Css(css))
            .wait(PATIENCE, Duration::from_millis(30))
            .first()
            .await
            .with_context(|| format!("no {css}"))
    }

    /// Clicks, scrolled into view; again where the page was just being redrawn under the pointer.
    pub async fn click(&self, css: &str) -> Result<()> {
        let start = Instant::now();
        loop {
            let element = self.find(css).await?;
            let clicked = match element.scroll_into_view().await {
                Ok(()) => element.click().await,
                Err(gone) => Err(gone),
            };
            match clicked {
                Err(error) if start.elapsed() > PATIENCE => {
                    return Err(error).with_context(|| format!("can't click {css}"));
                }
                Err(_) => tokio::time::sleep(Duration::from_millis(50)).await,
                Ok(()) => return Ok(()),
            }
        }
    }

    /// Replaces what a field holds and leaves it, as a person does with Tab.
    pub async fn fill(&self, css: &str, text: &str) -> Result<()> {
        let start = Instant::now();
        loop {
            let typed = async {
                let field = self.find(css).await?;
                field.scroll_into_view().await?;
                field.send_keys(Key::Control + "a").await?;
                anyhow::Ok(field.send_keys(format!("{text}{}", char::from(Key::Tab))).await?)
            };
            match typed.await {
                // The field was just being redrawn: it is found again.
                Err(_) if start.elapsed() < PATIENCE => tokio::time::sleep(Duration::from_millis(50)).await,
                done => return done.with_context(|| format!("can't fill {css}")),
            }
        }
    }

    /// Picks the entry of a list by its value.
    pub async fn pick(&self, css: &str, value: &str) -> Result<()> {
        self.click(&format!("{css} option[value='{value}']")).await
    }

    /// Reads from an element; again where it was replaced between finding and reading it.
    async fn read<T>(&self, css: &str, read: impl AsyncFn(WebElement) -> WebDriverResult<T>) -> Result<T> {
        let start = Instant::now();
        loop {
            match read(self.find(css).await?).await {
                Err(_) if start.elapsed() < PATIENCE => tokio::time::sleep(Duration::from_millis(30)).await,
                done => return done.with_context(|| format!("can't read {css}")),
            }
        }
    }

    /// The text of an element now.
    pub async fn text(&self, css: &str) -> Result<String> {
        self.read(css, async |element| element.text().await).await
    }

    /// What a field holds.
    pub async fn value(&self, css: &str) -> Result<String> {
        let value = self.read(css, async |field| field.prop("value").await);
        Ok(value.await?.unwrap_or_default())
    }

    /// An attribute of an element; empty where it has none of the name.
    pub async fn attr(&self, css: &str, name: &str) -> Result<String> {
        let value = self.read(css, async |element| element.attr(name).await);
        Ok(value.await?.unwrap_or_default())
    }

    /// Waits until an element's text says what is wanted.
    pub async fn until(&self, css: &str, wanted: impl Fn(&str) -> bool) -> Result<String> {
        let start = Instant::now();
        let mut last = String::new();
        while start.elapsed() < PATIENCE {
            // The element may be replaced between finding and reading it.
            if let Ok(element) = self.driver.find(By::Css(css)).await
                && let Ok(text) = element.text().await
            {
                if wanted(&text) {
                    return Ok(text);
                }
                last = text;
            }
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
        bail!("{css} still says ‘{last}’")
    }

    /// Waits until an element's text holds some words.
    pub async fn until_says(&self, css: &str, words: &str) -> Result<String> {
        self.until(css, |t| t.contains(words)).await.with_context(|| format!("waiting for ‘{words}’"))
    }

    /// Where a point of the ground, in metres, lies in the window.
    async fn over(&self, (x, y): (f64, f64)) -> Result<(i64, i64)> {
        let script = format!(
            "const p = new DOMPoint({x}, \
                {}).matrixTransform(document.getElementById('board').getScreenCTM()); return \
                [Math.round(p.x), Math.round(p.y)]",
            -y
        );
        let at: [i64; 2] = self.driver.execute(script, vec![]).await?.convert()?;
        Ok((at[0], at[1]))
    }

    /// Clicks the board at a point of the ground.
    pub async fn click_ground(&self, at: (f64, f64)) -> Result<()> {
        let (x, y) = self.over(at).await?;
        Ok(self.driver.action_chain().move_to(x, y).click().perform().await?)
    }

    /// Points at the ground without clicking.
    pub async fn point_ground(&self, at: (f64, f64)) -> Result<()> {
        let (x, y) = self.over(at).await?;
        Ok(self.driver.action_chain().move_to(x, y).perform().await?)
    }

    /// Drags from one point of the ground to another.
    pub async fn drag_ground(&self, from: (f64, f64), to: (f64, f64)) -> Result<()> {
        let ((x, y), (u, v)) = (self.over(from).await?, self.over(to).await?);
        Ok(self
            .driver
            .action_chain()
            .move_to(x, y)
            .click_and_hold()
            .move_to((x + u) / 2, (y + v) / 2)
            .move_to(u, v)
            .release()
            .perform()
            .await?)
    }

    /// Drags an element so many pixels to the right.
    pub async fn drag_by(&self, css: &str, right: i64) -> Result<()> {
        let element = self.find(css).await?;
        element.scroll_into_view().await?;
        let at = element.rect().await?;
        let from: String =
            self.until_js("return `${window.scrollX} ${window.scrollY}`", |t| t.contains(' ')).await?;
        let scrolled: Vec<f64> = from.split(' ').filter_map(|n| n.parse().ok()).collect();
        let x = (at.x + at.width / 2.0 - scrolled[0]) as i64;
        let y = (at.y + at.height / 2.0 - scrolled[1]) as i64;
        Ok(self
            .driver
            .action_chain()
            .move_to(x, y)
            .click_and_hold()
            .move_to(x + right / 2, y)
            .move_to(x + right, y)
            .release()
            .perform()
            .await?)
    }

    /// Takes hold of the ground and drags it, without letting go.
    pub async fn hold_ground(&self, from: (f64, f64), to: (f64, f64)) -> Result<()> {
        let ((x, y), (u, v)) = (self.over(from).await?, self.over(to).await?);
        Ok(self
            .driver
            .action_chain()
            .move_to(x, y)
            .click_and_hold()
            .move_to((x + u) / 2, (y + v) / 2)
            .move_to(u, v)
            .perform()
            .await?)
    }

    /// Lets go of what is held.
    pub async fn let_go(&self) -> Result<()> {
        Ok(self.driver.action_chain().release().perform().await?)
    }

    /// Fingers on the board: where they are from its upper left corner, in pixels, step by step from
    /// touching to lifting.
    pub async fn touch(&self, steps: &[&[(f64, f64)]]) -> Result<()> {
        let corner = self
            .driver
            .execute(
                "const b = document.getElementById('stage'); b.scrollIntoView({block: 'start'}); \
                const r = b.getBoundingClientRect(); return [r.x, r.y]",
                vec![],
            )
            .await?;
        let corner: [f64; 2] = corner.convert()?;
        let tools = self.driver.cdp();
        let points = |at: &[(f64, f64)]| {
            at.iter()
                .enumerate()
                .map(|(id, (x, y))| json!({"x": corner[0] + x, "y": corner[1] + y, "id": id}))
                .collect::<Vec<_>>()
        };
        for (i, at) in steps.iter().enumerate() {
            let kind = if i == 0 { "touchStart" } else { "touchMove" };
            tools
                .send_raw("Input.dispatchTouchEvent", json!({"type": kind, "touchPoints": points(at)}))
                .await?;
        }
        tools.send_raw("Input.dispatchTouchEvent", json!({"type": "touchEnd", "touchPoints": []})).await?;
        Ok(())
    }

    /// Types at whatever has the focus.
    pub async fn keys(&self, keys: &str) -> Result<()> {
        Ok(self.driver.active_element().await?.send_keys(keys).await?)
    }

    /// What a script gives, once it gives what is wanted.
    pub async fn until_js(&self, script: &str, wanted: impl Fn(&str) -> bool) -> Result<String> {
        let start = Instant::now();
        let mut last = String::new();
        while start.elapsed() < PATIENCE {
            if let Ok(found) = self.driver.execute(script, vec![]).await {
                last = match found.json() {
                    Value::String(text) => text.clone(),
                    other => other.to_string(),
                };
                if wanted(&last) {
                    return Ok(last);
                }
            }
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
        bail!("‘{script}’ still gives ‘{last}’")
    }

    /// Serious findings of axe-core on the page, as `id: first place`.
    pub async fn axe(&self) -> Result<Vec<String>> {
        // The page's own policy forbids inline scripts; the driver's are not the page's.
        self.driver.execute(include_str!("../vendor/axe.min.js"), vec![]).await?;
        let run = "const done = arguments[0]; axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', \
            'wcag21aa', 'wcag22aa']}).then(r => done(r.violations))";
        let found: Vec<Value> = self.driver.execute_async(run, vec![]).await?.convert()?;
        Ok(found
            .iter()
            .filter(|v| matches!(v["impact"].as_str(), Some("serious" | "critical")))
            .map(|v| {
                format!(
                    "{}: {}",
                    v["id"].as_str().unwrap_or("?"),
                    v["nodes"][0]["html"].as_str().unwrap_or("?")
                )
            })
            .collect())
    }

    /// True if the page is wider than its window.
    pub async fn overflows(&self) -> Result<bool> {
        let wide = self
            .driver
            .execute("return document.documentElement.scrollWidth > window.innerWidth + 1", vec![])
            .await?;
        Ok(wide.convert()?)
    }

    /// Closes the browser.
    pub async fn quit(self) -> Result<()> {
        Ok(self.driver.clone().quit().await?)
    }
}
