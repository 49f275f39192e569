//! What is bought, and what it costs.

use crate::args::{PacketArgs, PartsArgs, QuoteArgs};
use crate::io::{BadInput, print, read};
use crate::report;
use anyhow::{Context, Result};
use fenlo_core::assess::assess;
use fenlo_core::job::Job;
use fenlo_core::plan::Date;
use fenlo_core::pricing::{PriceBook, SectionBy, quote};
use fenlo_core::progress::Progress;
use fenlo_core::takeoff::{Takeoff, takeoff_priced};
use fenlo_formats::{parts_workbook, quote_workbook, read_job, read_prices, write_parts};
use fenlo_web::papers::{Ask, make};
use std::path::Path;
use std::time::{SystemTime, UNIX_EPOCH};

fn book_of(file: Option<&Path>) -> Result<Option<PriceBook>> {
    let Some(file) = file else { return Ok(None) };
    let book = read_prices(&read(file)?).map_err(|faults| {
        let lines: Vec<String> =
            faults.iter().map(|f| format!("{}, line {}: {}", file.display(), f.line, f.message)).collect();
        BadInput::from(lines.join("\n"))
    })?;
    Ok(Some(book))
}

/// Prices for a job, in its currency.
pub fn price_book(file: &Path, job: &Job) -> Result<PriceBook> {
    let book = book_of(Some(file))?.unwrap_or_default();
    let currency = &job.rules.buying.currency;
    if !book.currency.is_empty() && book.currency != *currency {
        return Err(BadInput::from(format!(
            "prices are in {}, the job uses {currency}. Change one of them",
            book.currency
        )));
    }
    Ok(book)
}

fn taken(job: &Job, book: Option<&PriceBook>) -> Takeoff {
    let known = assess(job);
    match book {
        Some(book) => takeoff_priced(job, &known, Some(&|part, piece| book.least(part, piece))),
        None => takeoff_priced(job, &known, None),
    }
}

pub fn run(args: &PartsArgs) -> Result<()> {
    let job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let book = book_of(args.prices.as_deref())?;
    let found = taken(&job, book.as_ref());
    if let Some(file) = &args.xlsx {
        let bytes = parts_workbook(&job, &found, book.as_ref()).context("writing the workbook")?;
        return std::fs::write(file, bytes).with_context(|| format!("writing {}", file.display()));
    }
    print(&if args.csv {
        write_parts(&job, &found, book.as_ref())
    } else if args.json {
        report::parts_json(&job, &found, book.as_ref())
    } else {
        report::parts_text(&job, &found, book.as_ref())
    })
}

pub fn run_quote(args: &QuoteArgs) -> Result<()> {
    let job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    let book = price_book(&args.prices, &job)?;
    let on = match &args.on {
        Some(day) => day.parse::<Date>().map_err(|e| BadInput::from(format!("--on: {e}")))?,
        None => today(),
    };
    let by = if args.by_zone { SectionBy::Zone } else { SectionBy::Work };
    let found = taken(&job, Some(&book));
    let quote = quote(&job, &found, &book, on, by);
    if let Some(file) = &args.xlsx {
        let bytes = quote_workbook(&quote, fenlo_words::quote_section).context("writing the workbook")?;
        return std::fs::write(file, bytes).with_context(|| format!("writing {}", file.display()));
    }
    print(&if args.json { report::quote_json(&quote) } else { report::quote_text(&quote) })
}

/// The day by this machine's clock.
fn today() -> Date {
    let seconds = SystemTime::now().duration_since(UNIX_EPOCH).map_or(0, |d| d.as_secs());
    Date::after_1970(seconds)
}

/// Writes the crew's packet; the helper that makes it is a program of its own beside this one.
pub async fn run_packet(args: &PacketArgs) -> Result<()> {
    let job = read_job(&read(&args.file)?).map_err(BadInput::from)?;
    if !["en", "es"].contains(&args.lang.as_str()) {
        return Err(BadInput::from("--lang: en or es".to_owned()));
    }
    let usual = if job.units.is_metric() { "a4" } else { "letter" };
    let paper = args.paper.as_deref().unwrap_or(usual);
    if !["letter", "a4", "a3", "a1"].contains(&paper) {
        return Err(BadInput::from("--paper: letter, a4, a3 or a1".to_owned()));
    }
    let ask = Ask {
        kind: if args.plan { "plan" } else { "packet" },
        lang: &args.lang,
        paper,
        job: job.plan(),
        more: serde_json::Value::Null,
    };
    let pdf = make(&ask, &Progress::default()).await?;
    std::fs::write(&args.out, pdf).with_context(|| format!("writing {}", args.out.display()))
}
