//! What the customer gets, and what suppliers get.

use crate::blocks::{Block, Column, Document, Sum};
use crate::lang::{Lang, Phrases};
use crate::packet::whole;
use crate::{Paper, PaperError};
use fenlo_core::job::Job;
use fenlo_core::pricing::{Quote, Section, Work, side_by_side};
use fenlo_core::units::Length;
use fenlo_words::money;
use rust_decimal::Decimal;
use serde::Deserialize;
use serde_json::Value;

#[derive(Deserialize)]
struct QuoteAsk {
    quote: Quote,
    version: i32,
    #[serde(default)]
    note: String,
}

fn section(section: &Section, lang: Lang) -> String {
    match section {
        Section::Shared => lang.say("Shared by all zones").to_owned(),
        Section::Zone(number, _, name) => format!("{} {number}: {name}", lang.say("Zone")),
        Section::Work(work) => lang
            .say(match work {
                Work::Connection => "Point of connection and backflow preventer",
                Work::Pipe => "Trenching and pipe",
                Work::Heads => "Heads and nozzles",
                Work::Valves => "Valves, wire and controller",
                Work::Drip => "Drip",
                Work::Other => "Miscellaneous materials",
            })
            .to_owned(),
    }
}

#[derive(Deserialize)]
struct OptionsAsk {
    options: Vec<QuoteAsk>,
}

/// Quotes side by side: a column for each, and a place to say which.
fn options(job: &Job, lang: Lang, paper: Paper, asked: &[QuoteAsk]) -> Result<Document, PaperError> {
    let quotes: Vec<&Quote> = asked.iter().map(|a| &a.quote).collect();
    let found = side_by_side(&quotes).map_err(|fault| PaperError::Asked(fault.to_string()))?;
    let first = quotes[0];
    let title = lang.say("Quote with options");
    let mut blocks = vec![Block::heading(1, title), Block::para(job.name.clone())];
    if !job.location.is_empty() {
        blocks.push(Block::para(job.location.clone()));
    }
    blocks.push(Block::heading(2, lang.say("Price")));
    let name = |a: &QuoteAsk| format!("{} {}", lang.say("Option"), a.version);
    let mut columns = vec![Column::wide(lang.say("Section"))];
    columns.extend(asked.iter().map(|a| Column::right(name(a))));
    let money = |sum| money(sum, &first.currency);
    let row = |text: String, cell: &dyn Fn(usize) -> String| -> Vec<String> {
        std::iter::once(text).chain((0..asked.len()).map(cell)).collect()
    };
    let mut rows: Vec<Vec<String>> = found
        .sections
        .iter()
        .map(|(s, prices)| row(section(s, lang), &|i| prices[i].map_or_else(|| "–".to_owned(), &money)))
        .collect();
    rows.push(row(lang.say("Subtotal").to_owned(), &|i| money(quotes[i].subtotal)));
    rows.push(row(lang.say("Tax").to_owned(), &|i| money(quotes[i].tax)));
    rows.push(row(lang.say("Total").to_owned(), &|i| money(quotes[i].total)));
    rows.push(row(lang.say("Valid until").to_owned(), &|i| lang.day(quotes[i].until)));
    blocks.push(Block::table(columns, rows));
    for a in asked.iter().filter(|a| !a.note.is_empty()) {
        blocks.push(Block::para(format!("{}: {}", name(a), a.note)));
    }
    if !job.local_code.is_empty() {
        blocks.push(Block::heading(2, lang.say("Local code and permits (from job notes)")));
        blocks.push(Block::para(job.local_code.clone()));
    }
    blocks.push(Block::heading(2, lang.say("Accepted")));
    let mut columns: Vec<Column> = asked.iter().map(|a| Column::wide(name(a))).collect();
    columns.extend(["Name", "Date", "Signature"].map(|word| Column::wide(lang.say(word))));
    let mut cells = vec!["☐".to_owned(); asked.len()];
    cells.extend([" ", " ", " "].map(str::to_owned));
    blocks.push(Block::form(columns, vec![cells]));
    Ok(document(job, lang, paper, format!("{title}: {}", job.name), blocks))
}

fn document(job: &Job, lang: Lang, paper: Paper, title: String, blocks: Vec<Block>) -> Document {
    let (width, height) = paper.for_text();
    Document {
        title,
        author: "Fenlo".into(),
        keywords: vec![lang.say("Quote").to_owned()],
        lang: lang.code(),
        foot: job.name.clone(),
        page_word: lang.say("Page").to_owned(),
        width,
        height,
        blocks,
        images: Vec::new(),
    }
}

/// The customer's quote: sections and what they come to, no costs. With several options they stand side by side.
pub(crate) fn quote(job: &Job, lang: Lang, paper: Paper, more: &Value) -> Result<Document, PaperError> {
    if let Ok(asked) = serde_json::from_value::<OptionsAsk>(more.clone()) {
        return options(job, lang, paper, &asked.options);
    }
    let ask: QuoteAsk = serde_json::from_value(more.clone())
        .map_err(|e| PaperError::Asked(format!("there is no quote to print: {e}")))?;
    let quote = &ask.quote;
    let mut blocks = vec![Block::heading(1, format!("{} {}", lang.say("Quote"), ask.version))];
    blocks.push(Block::para(job.name.clone()));
    if !job.location.is_empty() {
        blocks.push(Block::para(job.location.clone()));
    }
    let until = lang.with("Date {}; valid until {}.", &[&lang.day(quote.on), &lang.day(quote.until)]);
    blocks.push(Block::Soft { text: until });
    if !ask.note.is_empty() {
        blocks.push(Block::para(ask.note.clone()));
    }
    blocks.push(Block::heading(2, lang.say("Price")));
    let line = |text: String, sum: Decimal, bold: bool| Sum { text, sum: money(sum, &quote.currency), bold };
    let mut sums: Vec<Sum> =
        quote.sections.iter().map(|s| line(section(&s.section, lang), s.price, false)).collect();
    sums.push(line(lang.say("Subtotal").to_owned(), quote.subtotal, true));
    let rate = (quote.tax_rate * Decimal::ONE_HUNDRED).normalize();
    sums.push(line(lang.with("Tax, {}%", &[&rate.to_string()]), quote.tax, false));
    sums.push(line(lang.say("Total").to_owned(), quote.total, true));
    blocks.push(Block::Sums { rows: sums });
    blocks.push(Block::heading(2, lang.say("What is included")));
    let heads: u32 = job.groups.iter().map(fenlo_core::plan::HeadGroup::count).sum();
    blocks.push(Block::para(lang.with(
        "Zones: {}, one valve each. Heads and drip inlets: {}.",
        &[&job.valves.len().to_string(), &heads.to_string()],
    )));
    let zones = job.valves.iter().map(|v| vec![job.valve_number(&v.id).to_string(), v.name.clone()]);
    blocks.push(Block::table(
        vec![Column::right(lang.say("Valve")), Column::wide(lang.say("Zone"))],
        zones.collect(),
    ));
    if !job.local_code.is_empty() {
        blocks.push(Block::heading(2, lang.say("Local code and permits (from job notes)")));
        blocks.push(Block::para(job.local_code.clone()));
    }
    blocks.push(Block::heading(2, lang.say("Accepted")));
    blocks.push(Block::form(
        vec![
            Column::wide(lang.say("Name")),
            Column::wide(lang.say("Date")),
            Column::wide(lang.say("Signature")),
        ],
        vec![vec![" ".into(), " ".into(), " ".into()]],
    ));
    let title = format!("{} {}: {}", lang.say("Quote"), ask.version, job.name);
    Ok(document(job, lang, paper, title, blocks))
}

#[derive(Deserialize)]
struct OrderAsk {
    currency: String,
    bags: Vec<OrderBag>,
    #[serde(default)]
    unpriced: Vec<OrderLine>,
}

#[derive(Deserialize)]
struct OrderBag {
    supplier: String,
    goods: Decimal,
    carriage: Decimal,
    lines: Vec<OrderLine>,
}

#[derive(Deserialize)]
struct OrderLine {
    number: String,
    label: String,
    #[serde(default)]
    size: String,
    piece_m: Option<f64>,
    quantity: Decimal,
    sum: Option<Decimal>,
}

/// An order for each supplier, to be ticked off at delivery.
pub(crate) fn order(job: &Job, lang: Lang, paper: Paper, more: &Value) -> Result<Document, PaperError> {
    let ask: OrderAsk = serde_json::from_value(more.clone())
        .map_err(|e| PaperError::Asked(format!("nothing to order: {e}")))?;
    let (width, height) = paper.for_text();
    let columns = || {
        vec![
            Column::left(""),
            Column::right(lang.say("Quantity")),
            Column::left(lang.say("Item number")),
            Column::wide(lang.say("Part")),
            Column::right(lang.say("Amount")),
        ]
    };
    let row = |l: &OrderLine| {
        let piece = l.piece_m.map_or_else(String::new, |m| format!(", {}", whole(Length::from_m(m))));
        let text = format!("{} {}", lang.label(&l.label), lang.size(&l.size));
        vec![
            "☐".into(),
            l.quantity.normalize().to_string(),
            l.number.clone(),
            format!("{}{piece}", text.trim()),
            l.sum.map_or_else(String::new, |sum| money(sum, &ask.currency)),
        ]
    };
    let mut blocks = Vec::new();
    for bag in &ask.bags {
        blocks.push(Block::Break);
        blocks.push(Block::heading(1, format!("{}: {}", lang.say("Purchase order"), bag.supplier)));
        blocks.push(Block::Soft { text: job.name.clone() });
        blocks.push(Block::table(columns(), bag.lines.iter().map(row).collect()));
        let line = |text: &str, sum: Decimal, bold| Sum {
            text: lang.say(text).to_owned(),
            sum: money(sum, &ask.currency),
            bold,
        };
        blocks.push(Block::Sums {
            rows: vec![
                line("Materials", bag.goods, false),
                line("Freight", bag.carriage, false),
                line("Total", bag.goods + bag.carriage, true),
            ],
        });
    }
    if !ask.unpriced.is_empty() || ask.bags.is_empty() {
        blocks.push(Block::Break);
        blocks.push(Block::heading(1, lang.say("Parts without a price")));
        blocks.push(Block::table(columns(), ask.unpriced.iter().map(row).collect()));
    }
    Ok(Document {
        title: format!("{}: {}", lang.say("Purchase order"), job.name),
        author: "Fenlo".into(),
        keywords: vec![lang.say("Purchase order").to_owned()],
        lang: lang.code(),
        foot: job.name.clone(),
        page_word: lang.say("Page").to_owned(),
        width,
        height,
        blocks,
        images: Vec::new(),
    })
}
