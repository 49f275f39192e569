//! Documents as PDF: quote, plan sheets, crew packet, order. Set by typst with the fonts that ship here;
//! nothing is fetched.
//!
//! A process of its own makes them (`fenlo-papers`): its long build holds up no start, and nothing it does
//! can hold the server.
//!
//! ```
//! use fenlo_core::plan::Plan;
//! use fenlo_core::units::UnitSystem;
//! use fenlo_papers::{Kind, Lang, Paper, Request, make};
//!
//! let pdf = make(&Request {
//!     kind: Kind::Packet,
//!     lang: Lang::En,
//!     paper: Paper::Letter,
//!     job: Plan::new("Corner plot", UnitSystem::Us),
//!     more: Default::default(),
//! })?;
//! assert!(pdf.starts_with(b"%PDF"));
//! # Ok::<(), fenlo_papers::PaperError>(())
//! ```
//!
//! | file | idea |
//! |---|---|
//! | `blocks` | what a document is made of |
//! | `doc.typ` | how blocks are set |
//! | `lang` | English and Spanish |
//! | `sheets` | plan sheets to scale, tiled where large |
//! | `packet` | the crew's packet |
//! | `quote` | the customer's quote, the order |
//! | `set` | typst, fonts, glyphs that are missing |
#![forbid(unsafe_code)]
#![deny(missing_docs)]

mod blocks;
mod lang;
mod packet;
mod quote;
mod set;
mod sheets;

pub use lang::Lang;
pub use set::{PaperError, covered};

use fenlo_core::job::Job;
use fenlo_core::plan::Plan;
use serde::Deserialize;
use serde_json::Value;

/// What is to be made.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Kind {
    /// For the crew.
    Packet,
    /// The plan alone.
    Plan,
    /// For the customer.
    Quote,
    /// For suppliers.
    Order,
}

/// Sizes of paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Paper {
    /// 8.5 by 11 in.
    Letter,
    /// 210 by 297 mm.
    A4,
    /// 297 by 420 mm.
    A3,
    /// 594 by 841 mm.
    A1,
}

impl Paper {
    /// Width and height upright, mm.
    pub fn size(self) -> (f64, f64) {
        match self {
            Self::Letter => (215.9, 279.4),
            Self::A4 => (210.0, 297.0),
            Self::A3 => (297.0, 420.0),
            Self::A1 => (594.0, 841.0),
        }
    }
    /// What text is set on: large sheets carry plans only.
    pub(crate) fn for_text(self) -> (f64, f64) {
        match self {
            Self::A3 | Self::A1 => Self::A4.size(),
            own => own.size(),
        }
    }
}

/// One document.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Request {
    /// Which.
    pub kind: Kind,
    /// In which language.
    pub lang: Lang,
    /// On which paper.
    pub paper: Paper,
    /// The job.
    pub job: Plan,
    /// What the plan does not know: a quote, or what is ordered of whom.
    #[serde(default)]
    pub more: Value,
}

/// How far a document is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stage {
    /// Counted and drawn: what stands in it is known.
    Written,
    /// Set on its pages.
    Set,
}

/// Makes a document.
///
/// # Errors
/// The job has faults, what a document needs besides is not there, or typst refuses.
pub fn make(request: &Request) -> Result<Vec<u8>, PaperError> {
    make_watched(request, |_| ())
}

/// The same, telling how far it is.
///
/// # Errors
/// See [`make`].
pub fn make_watched(request: &Request, tell: impl Fn(Stage)) -> Result<Vec<u8>, PaperError> {
    let job = Job::new(request.job.clone());
    let faults = job.faults();
    if let Some(fault) = faults.first() {
        return Err(PaperError::Asked(format!("the job cannot be calculated: {fault}")));
    }
    let lang = request.lang;
    let document = match request.kind {
        Kind::Packet => packet::packet(&job, lang, request.paper),
        Kind::Plan => packet::plan(&job, lang, request.paper),
        Kind::Quote => quote::quote(&job, lang, request.paper, &request.more)?,
        Kind::Order => quote::order(&job, lang, request.paper, &request.more)?,
    };
    tell(Stage::Written);
    set::pdf(document, || tell(Stage::Set))
}
