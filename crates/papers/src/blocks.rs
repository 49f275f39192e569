//! What a document is made of. `doc.typ` knows how each kind of block is set.

use serde::Serialize;

/// A document before it is set.
#[derive(Debug, Serialize)]
pub struct Document {
    pub title: String,
    pub author: String,
    pub keywords: Vec<String>,
    pub lang: &'static str,
    pub foot: String,
    #[serde(rename = "page-word")]
    pub page_word: String,
    /// Paper of the text, mm.
    pub width: f64,
    pub height: f64,
    pub blocks: Vec<Block>,
    /// Drawings by the names that blocks call them by.
    #[serde(skip)]
    pub images: Vec<(String, String)>,
}

#[derive(Debug, Serialize)]
#[serde(tag = "kind", rename_all = "kebab-case")]
pub enum Block {
    Heading {
        level: u8,
        text: String,
    },
    Para {
        text: String,
    },
    Soft {
        text: String,
    },
    /// A caution at its step.
    Caution {
        word: String,
        text: String,
    },
    List {
        items: Vec<String>,
    },
    /// To be ticked off.
    Ticks {
        items: Vec<String>,
    },
    /// Numbered, to be ticked off.
    Steps {
        first: usize,
        items: Vec<String>,
    },
    Table {
        size: f64,
        /// Room above and below each row, mm: more where somebody writes.
        tall: f64,
        columns: Vec<Column>,
        rows: Vec<Vec<String>>,
    },
    Sums {
        rows: Vec<Sum>,
    },
    /// A drawing, at most as wide as this, mm.
    Image {
        image: String,
        width: f64,
        alt: String,
    },
    Break,
    Sheet(Box<Sheet>),
}

#[derive(Debug, Serialize)]
pub struct Column {
    pub title: String,
    pub right: bool,
    /// Share of what is left; 0: as wide as its words.
    pub wide: f64,
}

#[derive(Debug, Serialize)]
pub struct Sum {
    pub text: String,
    pub sum: String,
    pub bold: bool,
}

/// A page with the plan on it.
#[derive(Debug, Serialize)]
#[serde(rename_all = "kebab-case")]
pub struct Sheet {
    pub width: f64,
    pub height: f64,
    pub image: String,
    pub alt: String,
    pub x: f64,
    pub y: f64,
    pub draw_width: f64,
    pub draw_height: f64,
    pub name: String,
    pub place: String,
    pub sheet_word: String,
    pub scale_word: String,
    /// One field of the scale bar, mm.
    pub bar: f64,
    pub bar_word: String,
    pub bar_word2: String,
    pub north: f64,
    pub north_word: String,
    pub legend: Vec<LegendRow>,
}

#[derive(Debug, Serialize)]
pub struct LegendRow {
    pub image: String,
    pub text: String,
}

impl Column {
    pub fn left(title: impl Into<String>) -> Self {
        Self { title: title.into(), right: false, wide: 0.0 }
    }
    pub fn right(title: impl Into<String>) -> Self {
        Self { right: true, ..Self::left(title) }
    }
    pub fn wide(title: impl Into<String>) -> Self {
        Self::share(title, 1.0)
    }
    pub fn share(title: impl Into<String>, wide: f64) -> Self {
        Self { wide, ..Self::left(title) }
    }
}

impl Block {
    pub fn heading(level: u8, text: impl Into<String>) -> Self {
        Self::Heading { level, text: text.into() }
    }
    pub fn para(text: impl Into<String>) -> Self {
        Self::Para { text: text.into() }
    }
    pub fn table(columns: Vec<Column>, rows: Vec<Vec<String>>) -> Self {
        Self::Table { size: 8.5, tall: 1.1, columns, rows }
    }
    /// A narrow table laid out in several stretches side by side, read down and then to the right.
    pub fn side_by_side(columns: impl Fn() -> Vec<Column>, rows: Vec<Vec<String>>, across: usize) -> Self {
        let tall = rows.len().div_ceil(across).max(1);
        let width = columns().len();
        let mut all = Vec::new();
        for i in 0..across.min(rows.len().div_ceil(tall)) {
            if i > 0 {
                all.push(Column::left("  "));
            }
            all.extend(columns());
        }
        let mut laid = Vec::new();
        for line in 0..tall {
            let mut row = Vec::new();
            for i in 0..across.min(rows.len().div_ceil(tall)) {
                if i > 0 {
                    row.push(String::new());
                }
                match rows.get(i * tall + line) {
                    Some(cells) => row.extend(cells.iter().cloned()),
                    None => row.extend(vec![String::new(); width]),
                }
            }
            laid.push(row);
        }
        Self::table(all, laid)
    }
    /// A table that somebody writes into.
    pub fn form(columns: Vec<Column>, rows: Vec<Vec<String>>) -> Self {
        Self::Table { size: 8.5, tall: 2.4, columns, rows }
    }
}
