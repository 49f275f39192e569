//! Typst with the fonts that ship here.

use crate::blocks::Document;
use typst_as_lib::TypstEngine;

static TEMPLATE: &str = include_str!("doc.typ");
static FONTS: [&[u8]; 4] = [
    include_bytes!("../fonts/AtkinsonHyperlegibleNext-Regular.ttf"),
    include_bytes!("../fonts/AtkinsonHyperlegibleNext-Bold.ttf"),
    include_bytes!("../fonts/DejaVuSans.ttf"),
    include_bytes!("../fonts/DejaVuSans-Bold.ttf"),
];

/// Why there is no document.
#[derive(Debug, thiserror::Error)]
pub enum PaperError {
    /// What was asked for can't be made.
    #[error("{0}")]
    Asked(String),
    /// Typst refused.
    #[error("the document could not be set: {0}")]
    Set(String),
}

/// Whether the fonts have a glyph for a character: what they lack would print as a box.
pub fn covered(c: char) -> bool {
    c.is_whitespace() || faces().iter().any(|face| face.glyph_index(c).is_some())
}

fn faces() -> &'static [ttf_parser::Face<'static>] {
    static FACES: std::sync::OnceLock<Vec<ttf_parser::Face<'static>>> = std::sync::OnceLock::new();
    FACES.get_or_init(|| FONTS.iter().filter_map(|f| ttf_parser::Face::parse(f, 0).ok()).collect())
}

/// Characters that no font has become a question mark: never a box.
fn printable(text: &str) -> String {
    text.chars()
        .filter(|c| !c.is_control() || c.is_whitespace())
        .map(|c| if covered(c) { c } else { '?' })
        .collect()
}

/// Sets a document; `set_on_pages` is called once its pages stand and only the file is to be written.
pub(crate) fn pdf(document: Document, set_on_pages: impl FnOnce()) -> Result<Vec<u8>, PaperError> {
    let set = |e: &dyn std::fmt::Debug| PaperError::Set(format!("{e:?}").chars().take(600).collect());
    let data = serde_json::to_string(&document).map_err(|e| set(&e))?;
    let mut files: Vec<(String, Vec<u8>)> = vec![("data.json".into(), printable(&data).into_bytes())];
    for (name, svg) in document.images {
        files.push((name, printable(&svg).into_bytes()));
    }
    let engine = TypstEngine::builder()
        .main_file(TEMPLATE)
        .fonts(FONTS)
        .with_static_file_resolver(files.iter().map(|(name, bytes)| (name.as_str(), bytes.clone())))
        .build();
    let paged = engine.compile().output.map_err(|e| set(&e))?;
    set_on_pages();
    typst_pdf::pdf(&paged, &typst_pdf::PdfOptions::default()).map_err(|e| set(&e))
}
