//! The list of parts and the quote, as CSV and as workbooks.

use crate::prices::plain;
use fenlo_core::job::Job;
use fenlo_core::pricing::{Baskets, PriceBook, Quote, baskets, part_key};
use fenlo_core::takeoff::{Line, Takeoff};
use rust_decimal::Decimal;
use rust_decimal::prelude::ToPrimitive;
use rust_xlsxwriter::{Format, Formula, Workbook, Worksheet, XlsxError};

/// Column headers of the list.
const HEADER: [&str; 9] = ["section", "part", "text", "quantity", "unit", "piece", "used", "supplier", "sum"];

/// A line of the list for a spreadsheet.
struct Row {
    cells: [String; 3],
    quantity: f64,
    unit: String,
    piece: String,
    used: String,
    supplier: String,
    sum: Option<Decimal>,
}

fn rows(job: &Job, takeoff: &Takeoff, book: Option<&PriceBook>) -> Vec<Row> {
    let ways: Option<Baskets> = book.map(|b| baskets(b, &takeoff.lines));
    let bought = |place: usize| {
        let bags = ways.iter().flat_map(|w| &w.best.bags);
        bags.flat_map(|b| b.lines.iter().map(move |l| (b, l)))
            .find(|(_, l)| l.0 == place)
            .map(|(b, l)| (b.supplier.clone(), l.1, l.2))
    };
    takeoff
        .lines
        .iter()
        .enumerate()
        .map(|(i, line)| {
            let offer = bought(i);
            Row {
                cells: [kind_word(line), part_key(&line.part, line.piece), line.text()],
                quantity: offer.as_ref().and_then(|o| o.1.to_f64()).unwrap_or(line.quantity),
                unit: line.unit.word().to_owned(),
                piece: line.piece.map_or_else(String::new, |p| p.field(job.units)),
                used: used(job, line),
                supplier: offer.as_ref().map_or_else(String::new, |o| o.0.clone()),
                sum: offer.map(|o| o.2),
            }
        })
        .collect()
}

fn kind_word(line: &Line) -> String {
    serde_json::to_value(line.kind).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// What the plan uses: length of pipe in the job's units, else pieces.
fn used(job: &Job, line: &Line) -> String {
    match line.piece {
        Some(_) => fenlo_core::units::Length::from_m(line.used).field(job.units),
        None => format!("{}", (line.used * 1000.0).round() / 1000.0),
    }
}

/// The list as CSV; with a price book what the cheapest basket costs. Cells that a spreadsheet might run as a
/// formula are made plain text.
pub fn write_parts(job: &Job, takeoff: &Takeoff, book: Option<&PriceBook>) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let _ = writer.write_record(HEADER);
    for row in rows(job, takeoff, book) {
        let [section, part, text] = row.cells;
        let _ = writer.write_record([
            section,
            plain(&part),
            plain(&text),
            format!("{}", row.quantity),
            plain(&row.unit),
            row.piece,
            row.used,
            plain(&row.supplier),
            row.sum.map_or_else(String::new, |s| s.to_string()),
        ]);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}

struct Formats {
    head: Format,
    money: Format,
    bold: Format,
}

impl Formats {
    fn new() -> Self {
        Self {
            head: Format::new().set_bold().set_border_bottom(rust_xlsxwriter::FormatBorder::Thin),
            money: Format::new().set_num_format("#,##0.00"),
            bold: Format::new().set_bold().set_num_format("#,##0.00"),
        }
    }
}

/// The list as a workbook.
///
/// # Errors
/// The library can't write it.
pub fn parts_workbook(job: &Job, takeoff: &Takeoff, book: Option<&PriceBook>) -> Result<Vec<u8>, XlsxError> {
    let formats = Formats::new();
    let mut workbook = Workbook::new();
    let sheet = workbook.add_worksheet();
    sheet.set_name("Parts")?;
    header(sheet, &HEADER, &formats)?;
    let mut at = 1;
    for row in rows(job, takeoff, book) {
        for (column, text) in row.cells.iter().enumerate() {
            sheet.write_string(at, column as u16, text)?;
        }
        sheet.write_number(at, 3, row.quantity)?;
        sheet.write_string(at, 4, &row.unit)?;
        sheet.write_string(at, 5, &row.piece)?;
        sheet.write_string(at, 6, &row.used)?;
        sheet.write_string(at, 7, &row.supplier)?;
        if let Some(sum) = row.sum.and_then(|s| s.to_f64()) {
            sheet.write_number_with_format(at, 8, sum, &formats.money)?;
        }
        at += 1;
    }
    if book.is_some() && at > 1 {
        sheet.write_string_with_format(at, 7, "total", &formats.bold)?;
        sheet.write_formula_with_format(at, 8, Formula::new(format!("=SUM(I2:I{at})")), &formats.bold)?;
    }
    sheet.set_column_width(2, 44)?;
    sheet.set_column_width(1, 30)?;
    sheet.set_freeze_panes(1, 0)?;
    workbook.save_to_buffer()
}

fn header(sheet: &mut Worksheet, names: &[&str], formats: &Formats) -> Result<(), XlsxError> {
    for (column, name) in names.iter().enumerate() {
        sheet.write_string_with_format(0, column as u16, *name, &formats.head)?;
    }
    Ok(())
}

/// A quote as a workbook: materials, labour, and sums that are formulas over them, so that a changed price
/// changes the sum.
///
/// # Errors
/// The library can't write it.
pub fn quote_workbook(
    quote: &Quote,
    section: impl Fn(&fenlo_core::pricing::Section) -> String,
) -> Result<Vec<u8>, XlsxError> {
    let formats = Formats::new();
    let mut workbook = Workbook::new();
    let sheet = workbook.add_worksheet();
    sheet.set_name("Materials")?;
    header(sheet, &["part", "text", "quantity", "unit", "price", "sum", "supplier"], &formats)?;
    for (i, line) in quote.lines.iter().enumerate() {
        let at = i as u32 + 1;
        sheet.write_string(at, 0, &line.part)?;
        sheet.write_string(at, 1, &line.text)?;
        sheet.write_number(at, 2, line.quantity.to_f64().unwrap_or(0.0))?;
        sheet.write_string(at, 3, &line.unit)?;
        match line.price.and_then(|p| p.to_f64()) {
            Some(price) => {
                sheet.write_number_with_format(at, 4, price, &formats.money)?;
                let sum = line.sum.and_then(|s| s.to_f64()).unwrap_or(0.0);
                let formula =
                    Formula::new(format!("=ROUND(C{0}*E{0},2)", at + 1)).set_result(format!("{sum}"));
                sheet.write_formula_with_format(at, 5, formula, &formats.money)?;
            }
            None => {
                sheet.write_string(at, 4, "no price")?;
            }
        }
        sheet.write_string(at, 6, line.supplier.as_deref().unwrap_or_default())?;
    }
    let last_material = quote.lines.len() as u32 + 1;
    sheet.set_column_width(1, 44)?;
    sheet.set_freeze_panes(1, 0)?;
    let sheet = workbook.add_worksheet();
    sheet.set_name("Labor")?;
    header(sheet, &["work", "count", "hours", "sum"], &formats)?;
    for (i, work) in quote.labour.iter().enumerate() {
        let at = i as u32 + 1;
        sheet.write_string(at, 0, &work.unit)?;
        sheet.write_number(at, 1, (work.count * 100.0).round() / 100.0)?;
        sheet.write_number(at, 2, work.hours.to_f64().unwrap_or(0.0))?;
        sheet.write_number_with_format(at, 3, work.sum.to_f64().unwrap_or(0.0), &formats.money)?;
    }
    let last_labour = quote.labour.len() as u32 + 1;
    let sheet = workbook.add_worksheet();
    sheet.set_name("Quote")?;
    header(sheet, &["section", "materials", "labour", "price"], &formats)?;
    for (i, part) in quote.sections.iter().enumerate() {
        let at = i as u32 + 1;
        sheet.write_string(at, 0, section(&part.section))?;
        for (column, sum) in [(1, part.materials), (2, part.labour), (3, part.price)] {
            sheet.write_number_with_format(at, column, sum.to_f64().unwrap_or(0.0), &formats.money)?;
        }
    }
    let last = quote.sections.len() as u32 + 1;
    let number = |d: Decimal| d.to_f64().unwrap_or(0.0);
    let sums: [(&str, String, Decimal); 6] = [
        (
            "materials",
            format!("=SUM(Materials!F2:F{})", last_material.max(2)),
            quote.lines.iter().filter_map(|l| l.sum).sum(),
        ),
        (
            "labour",
            format!("=SUM(Labor!D2:D{})", last_labour.max(2)),
            quote.labour.iter().map(|l| l.sum).sum(),
        ),
        ("carriage", String::new(), quote.carriage),
        ("subtotal", format!("=SUM(D2:D{})", last.max(2)), quote.subtotal),
        ("tax", format!("=ROUND(D{}*{},2)", last + 5, quote.tax_rate), quote.tax),
        ("total", format!("=D{}+D{}", last + 5, last + 6), quote.total),
    ];
    for (i, (name, formula, result)) in sums.iter().enumerate() {
        let at = last + 1 + i as u32;
        sheet.write_string_with_format(at, 0, *name, &formats.bold)?;
        if formula.is_empty() {
            sheet.write_number_with_format(at, 3, number(*result), &formats.bold)?;
        } else {
            let formula = Formula::new(formula).set_result(result.to_string());
            sheet.write_formula_with_format(at, 3, formula, &formats.bold)?;
        }
    }
    sheet.set_column_width(0, 40)?;
    workbook.save_to_buffer()
}

/// A price book as a workbook that [`crate::read_prices`] takes back.
///
/// # Errors
/// The library can't write it.
pub fn prices_workbook(book: &PriceBook) -> Result<Vec<u8>, XlsxError> {
    let formats = Formats::new();
    let mut workbook = Workbook::new();
    let sheet = workbook.add_worksheet();
    sheet.set_name("Prices")?;
    let names = [
        "number",
        "text",
        "part",
        "supplier",
        "price",
        "pack",
        "minimum",
        "carriage",
        "free from",
        "date",
        "currency",
    ];
    header(sheet, &names, &formats)?;
    let parts: std::collections::HashMap<&String, &String> =
        book.numbers.iter().map(|(part, number)| (number, part)).collect();
    for (i, price) in book.prices.iter().enumerate() {
        let at = i as u32 + 1;
        let terms = book.supplier(&price.supplier);
        let part = parts.get(&price.number).map_or("", |p| p.as_str());
        for (column, text) in
            [(0, &price.number), (1, &price.text), (3, &price.supplier), (10, &book.currency)]
        {
            sheet.write_string(at, column, text)?;
        }
        sheet.write_string(at, 2, part)?;
        sheet.write_number(at, 4, price.price.to_f64().unwrap_or(0.0))?;
        sheet.write_number(at, 5, price.pack)?;
        sheet.write_number(at, 6, price.minimum)?;
        sheet.write_number(at, 7, terms.carriage.to_f64().unwrap_or(0.0))?;
        if let Some(free) = terms.free_from.and_then(|f| f.to_f64()) {
            sheet.write_number(at, 8, free)?;
        }
        sheet.write_string(at, 9, price.dated.map_or_else(String::new, |d| d.to_string()))?;
    }
    sheet.set_column_width(1, 40)?;
    sheet.set_freeze_panes(1, 0)?;
    workbook.save_to_buffer()
}
