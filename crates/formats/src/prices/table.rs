//! Rows of text out of CSV or XLSX.

use calamine::{Data, Reader, Xlsx};
use std::io::Cursor;

/// A table with its header.
pub(super) struct Table {
    pub header: Vec<String>,
    /// Line of the first row below the header.
    pub first_line: usize,
    pub rows: Vec<(usize, Vec<String>)>,
    /// Cells were parted by semicolons, so that commas stand before cents.
    pub semicolons: bool,
}

/// Cells of a sheet, and bytes that a workbook unpacks to, at most.
const MOST_CELLS: usize = 2_000_000;
const MOST_UNPACKED: u64 = 200_000_000;

pub(super) fn read_table(bytes: &[u8], most_rows: usize) -> Result<Table, String> {
    if bytes.starts_with(b"PK\x03\x04") {
        return workbook(bytes, most_rows);
    }
    if bytes.starts_with(&[0xd0, 0xcf, 0x11, 0xe0]) {
        return Err("is an old spreadsheet format (XLS). Save it as XLSX or CSV".into());
    }
    let text = decoded(bytes)?;
    let text = text.trim_start_matches('\u{feff}');
    let first = text.lines().find(|l| !l.trim().is_empty()).unwrap_or_default();
    let count = |c: char| first.matches(c).count();
    let delimiter = [(';', count(';')), ('\t', count('\t')), (',', count(','))];
    let (delimiter, _) = delimiter.into_iter().max_by_key(|d| d.1).unwrap_or((',', 0));
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter as u8)
        .flexible(true)
        .has_headers(false)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let mut header: Option<Vec<String>> = None;
    let mut rows = Vec::new();
    let mut first_line = 2;
    for record in reader.records() {
        let record = record.map_err(|e| format!("cannot be read: {e}"))?;
        let line = record.position().map_or(0, |p| p.line() as usize);
        let cells: Vec<String> = record.iter().map(unquoted).collect();
        match &header {
            None if cells.iter().all(|c| c.is_empty()) => {}
            None => {
                first_line = line + 1;
                header = Some(cells);
            }
            Some(_) if rows.len() >= most_rows => {
                return Err(format!("has over {most_rows} rows: part it"));
            }
            Some(_) => rows.push((line, cells)),
        }
    }
    Ok(Table { header: header.ok_or("is empty")?, first_line, rows, semicolons: delimiter == ';' })
}

/// UTF-8, or what older spreadsheets write (Windows-1252).
fn decoded(bytes: &[u8]) -> Result<String, String> {
    if bytes.contains(&0) {
        return Err("is not text. Save it as CSV or XLSX".into());
    }
    Ok(match std::str::from_utf8(bytes) {
        Ok(text) => text.to_owned(),
        Err(_) => bytes.iter().map(|b| windows_1252(*b)).collect(),
    })
}

fn windows_1252(byte: u8) -> char {
    const HIGH: [char; 32] = [
        '€', '\u{81}', '‚', 'ƒ', '„', '…', '†', '‡', 'ˆ', '‰', 'Š', '‹', 'Œ', '\u{8d}', 'Ž', '\u{8f}',
        '\u{90}', '‘', '’', '“', '”', '•', '–', '—', '˜', '™', 'š', '›', 'œ', '\u{9d}', 'ž', 'Ÿ',
    ];
    match byte {
        0x80..=0x9f => HIGH[usize::from(byte - 0x80)],
        _ => char::from(byte),
    }
}

/// What the parts of a ZIP archive unpack to by its directory, bytes; none: it has no directory that reads.
///
/// # Source
/// PKWARE, .ZIP File Format Specification (APPNOTE) 6.3: end of central directory, central directory headers.
fn unpacked(bytes: &[u8]) -> Option<u64> {
    let tail = bytes.len().saturating_sub(66_000);
    let end = tail + bytes[tail..].windows(4).rposition(|w| w == b"PK\x05\x06")?;
    let short = |at: usize| Some(u16::from_le_bytes(bytes.get(at..at + 2)?.try_into().ok()?));
    let long = |at: usize| Some(u32::from_le_bytes(bytes.get(at..at + 4)?.try_into().ok()?));
    let mut at = long(end + 16)? as usize;
    let mut sum = 0u64;
    for _ in 0..short(end + 10)? {
        if bytes.get(at..at + 4)? != b"PK\x01\x02" {
            return None;
        }
        sum += u64::from(long(at + 24)?);
        let (name, extra, note) = (short(at + 28)?, short(at + 30)?, short(at + 32)?);
        at += 46 + usize::from(name) + usize::from(extra) + usize::from(note);
    }
    Some(sum)
}

fn workbook(bytes: &[u8], most_rows: usize) -> Result<Table, String> {
    match unpacked(bytes) {
        None => return Err("is no workbook that can be read: it is cut short".into()),
        Some(sum) if sum > MOST_UNPACKED => {
            return Err(format!(
                "unpacks to {} MB: at most {} MB are read",
                sum / 1_000_000,
                MOST_UNPACKED / 1_000_000
            ));
        }
        Some(_) => {}
    }
    let mut book: Xlsx<_> =
        Xlsx::new(Cursor::new(bytes)).map_err(|e| format!("is no workbook that can be read: {e}"))?;
    let name = book.sheet_names().first().cloned().ok_or("the workbook has no sheet")?;
    let range = book.worksheet_range(&name).map_err(|e| format!("sheet ‘{name}’ cannot be read: {e}"))?;
    let (height, width) = range.get_size();
    if height > most_rows + 1 || height.saturating_mul(width) > MOST_CELLS {
        return Err(format!("has {height} rows of {width} cells: at most {most_rows} rows"));
    }
    let top = range.start().map_or(0, |s| s.0 as usize) + 1;
    let mut rows = range.rows().enumerate().map(|(i, row)| {
        let cells: Vec<String> = row.iter().map(text_of).collect();
        (top + i, cells)
    });
    let (line, header) = rows
        .by_ref()
        .find(|(_, cells)| cells.iter().any(|c| !c.is_empty()))
        .ok_or("the first sheet is empty")?;
    Ok(Table { header, first_line: line + 1, rows: rows.collect(), semicolons: false })
}

fn text_of(cell: &Data) -> String {
    match cell {
        Data::String(text) => unquoted(text),
        Data::Float(number) => number.to_string(),
        Data::Int(number) => number.to_string(),
        Data::Bool(yes) => yes.to_string(),
        Data::DateTime(at) => at.as_datetime().map_or_else(String::new, |d| d.format("%Y-%m-%d").to_string()),
        Data::DateTimeIso(text) | Data::DurationIso(text) => text.clone(),
        _ => String::new(),
    }
}

/// What a spreadsheet might run as a formula stands behind an apostrophe.
pub(crate) fn plain(text: &str) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r']) { format!("'{text}") } else { text.to_owned() }
}

/// The apostrophe that was put before it goes again, so that a name comes back as it went.
fn unquoted(text: &str) -> String {
    match text.strip_prefix('\'') {
        Some(rest) if rest.starts_with(['=', '+', '-', '@', '\t', '\r']) => rest.to_owned(),
        _ => text.to_owned(),
    }
}
