//! Price books as CSV or XLSX: a header that names the columns, a row for each price.
//!
//! ```csv
//! number,text,part,supplier,price,pack,minimum,carriage,free from,date,currency
//! 4711,Dripline 500 ft,dripline-0.6-12in@500ft,Northgate,60.00,1,1,12,49,2026-03-01,USD
//! ```
//!
//! Columns may stand in any order; `number`, `supplier` and `price` are needed. `part` says which part of a
//! takeoff the number is, once for all jobs; `pack` and `minimum` count as 1, `carriage` as none. A file is
//! taken over whole or not at all: every fault is told with its line.

mod money;
mod table;

use crate::chart::ChartFault;
use fenlo_core::plan::Date;
use fenlo_core::pricing::{Price, PriceBook, Supplier};
use rust_decimal::Decimal;
use std::collections::{HashMap, HashSet};

use money::{Sign, read_money};
pub(crate) use table::plain;
use table::{Table, read_table};

/// Largest file that is read, bytes.
pub const MOST_PRICES: usize = 20_000_000;
/// Rows of one book at most.
pub const MOST_PRICE_ROWS: usize = 100_000;
const MOST_FAULTS: usize = 50;

/// What a column holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
enum Column {
    Number,
    Text,
    Part,
    Supplier,
    Price,
    Pack,
    Minimum,
    Carriage,
    FreeFrom,
    Date,
    Currency,
}

/// Columns with the words that they are known by.
const COLUMNS: [(Column, &[&str]); 11] = [
    (Column::Number, &["number", "no", "item", "sku", "article", "código", "numero"]),
    (Column::Text, &["text", "name", "description", "descripción"]),
    (Column::Part, &["part"]),
    (Column::Supplier, &["supplier", "vendor", "proveedor"]),
    (Column::Price, &["price", "unit price", "precio"]),
    (Column::Pack, &["pack", "pack size"]),
    (Column::Minimum, &["minimum", "min"]),
    (Column::Carriage, &["carriage", "freight", "delivery"]),
    (Column::FreeFrom, &["free from", "carriage free from", "free over"]),
    (Column::Date, &["date", "dated", "as of"]),
    (Column::Currency, &["currency", "moneda"]),
];

/// Reads a price book: CSV, or XLSX by its first bytes. A book comes only where nothing is wrong with any
/// line.
pub fn read_prices(bytes: &[u8]) -> Result<PriceBook, Vec<ChartFault>> {
    let fault = |line: usize, message: String| ChartFault { line, message };
    if bytes.len() > MOST_PRICES {
        let message = format!("the file is over {} MB", MOST_PRICES / 1_000_000);
        return Err(vec![fault(1, message)]);
    }
    let table = read_table(bytes, MOST_PRICE_ROWS).map_err(|message| vec![fault(1, message)])?;
    let columns = columns(&table).map_err(|message| vec![fault(table.first_line - 1, message)])?;
    let mut reading = Reading {
        sign: if table.semicolons { Sign::Comma } else { Sign::Point },
        columns,
        book: PriceBook::default(),
        seen: HashSet::new(),
        terms: HashMap::new(),
    };
    let mut faults = Vec::new();
    for (line, row) in table.rows {
        if faults.len() >= MOST_FAULTS {
            faults.push(fault(line, "and more; the rest was not checked".into()));
            break;
        }
        if row.iter().all(|c| c.trim().is_empty()) {
            continue;
        }
        if let Err(message) = reading.row(&row) {
            faults.push(fault(line, message));
        }
    }
    if faults.is_empty() && reading.book.prices.is_empty() {
        faults.push(fault(table.first_line, "has a header but no prices".into()));
    }
    if faults.is_empty() { Ok(reading.book) } else { Err(faults) }
}

fn columns(table: &Table) -> Result<HashMap<Column, usize>, String> {
    let mut found = HashMap::new();
    for (i, name) in table.header.iter().enumerate() {
        let name = name.trim().to_lowercase().replace('_', " ");
        let known = COLUMNS.iter().find(|(_, words)| words.contains(&name.as_str()));
        if let Some((column, _)) = known
            && found.insert(*column, i).is_some()
        {
            return Err(format!("two columns are called ‘{name}’"));
        }
    }
    for (column, name) in
        [(Column::Number, "number"), (Column::Supplier, "supplier"), (Column::Price, "price")]
    {
        if !found.contains_key(&column) {
            let have: String = table.header.join(" | ").chars().take(100).collect();
            return Err(format!(
                "no column ‘{name}’ in the header; it has: {have}. Columns are separated by comma, semicolon \
                    or tab."
            ));
        }
    }
    Ok(found)
}

struct Reading {
    sign: Sign,
    columns: HashMap<Column, usize>,
    book: PriceBook,
    seen: HashSet<(String, String)>,
    terms: HashMap<String, usize>,
}

impl Reading {
    fn row(&mut self, row: &[String]) -> Result<(), String> {
        let cell = |column: Column| -> &str {
            let at = self.columns.get(&column);
            at.and_then(|i| row.get(*i)).map_or("", |c| c.trim())
        };
        let money = |column: Column, name: &str| -> Result<Option<Decimal>, String> {
            match cell(column) {
                "" => Ok(None),
                text => read_money(text, self.sign)
                    .map(Some)
                    .map_err(|why| format!("{name} ‘{}’ {why}", short(text))),
            }
        };
        let whole = |column: Column, name: &str| -> Result<u32, String> {
            match cell(column) {
                "" => Ok(1),
                text => {
                    let text = text.strip_suffix(".0").unwrap_or(text);
                    text.parse().map_err(|_| format!("{name} ‘{}’ is not a whole number", short(text)))
                }
            }
        };
        let price = money(Column::Price, "price")?.ok_or("has no price")?;
        let dated = match cell(Column::Date) {
            "" => None,
            text => {
                let day = text.split(['T', ' ']).next().unwrap_or(text);
                let date: Result<Date, _> = day.parse();
                Some(date.map_err(|e| format!("date ‘{}’: {e}", short(text)))?)
            }
        };
        let read = Price {
            number: cell(Column::Number).to_owned(),
            text: cell(Column::Text).chars().take(200).collect(),
            supplier: cell(Column::Supplier).to_owned(),
            price,
            pack: whole(Column::Pack, "pack")?,
            minimum: whole(Column::Minimum, "minimum")?,
            dated,
        };
        if let Some(fault) = read.fault() {
            return Err(fault.to_string());
        }
        let currency = cell(Column::Currency).to_uppercase();
        let letters = currency.len() == 3 && currency.chars().all(|c| c.is_ascii_uppercase());
        if !currency.is_empty() && !letters {
            return Err(format!("currency ‘{}’ must be three letters, such as USD", short(&currency)));
        }
        if !currency.is_empty() && !self.book.currency.is_empty() && currency != self.book.currency {
            return Err(format!(
                "is in {currency}; earlier rows are in {}. A price book has one currency",
                self.book.currency
            ));
        }
        let carriage = money(Column::Carriage, "carriage")?;
        let free_from = money(Column::FreeFrom, "free from")?;
        if [carriage, free_from].into_iter().flatten().any(|m| m.is_sign_negative()) {
            return Err("freight and the free-freight amount cannot be below zero".into());
        }
        if !self.seen.insert((read.number.clone(), read.supplier.clone())) {
            return Err(format!("number ‘{}’ appears twice for {}", read.number, read.supplier));
        }
        let part = cell(Column::Part).to_owned();
        if part.len() > 120 {
            return Err("part must be at most 120 characters".into());
        }
        let own = self.book.numbers.get(&part).filter(|n| **n != read.number);
        if let Some(other) = own.filter(|_| !part.is_empty()) {
            return Err(format!("part ‘{}’ has the number {other} already", short(&part)));
        }
        // All is well: only now is anything taken over.
        if !part.is_empty() {
            self.book.numbers.insert(part, read.number.clone());
        }
        if !currency.is_empty() {
            self.book.currency = currency;
        }
        let next = self.book.suppliers.len();
        let at = *self.terms.entry(read.supplier.clone()).or_insert(next);
        if at == next {
            self.book.suppliers.push(Supplier {
                name: read.supplier.clone(),
                carriage: Decimal::ZERO,
                free_from: None,
            });
        }
        let terms = &mut self.book.suppliers[at];
        if let Some(carriage) = carriage {
            terms.carriage = carriage;
        }
        terms.free_from = free_from.or(terms.free_from);
        self.book.prices.push(read);
        Ok(())
    }
}

fn short(text: &str) -> String {
    text.chars().take(40).collect()
}

/// Writes a price book as CSV that [`read_prices`] takes back.
pub fn write_prices(book: &PriceBook) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let header = [
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
    let _ = writer.write_record(header);
    let parts: HashMap<&String, &String> = book.numbers.iter().map(|(part, number)| (number, part)).collect();
    for price in &book.prices {
        let terms = book.supplier(&price.supplier);
        let _ = writer.write_record([
            plain(&price.number),
            plain(&price.text),
            plain(parts.get(&price.number).map_or("", |p| p.as_str())),
            plain(&price.supplier),
            price.price.to_string(),
            price.pack.to_string(),
            price.minimum.to_string(),
            terms.carriage.to_string(),
            terms.free_from.map_or_else(String::new, |f| f.to_string()),
            price.dated.map_or_else(String::new, |d| d.to_string()),
            book.currency.clone(),
        ]);
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}
