use crate::working::Working;

/// A finding in words.
#[derive(Debug, Clone, PartialEq)]
pub struct Said {
    /// In a few words.
    pub title: String,
    /// In a sentence, with figures.
    pub text: String,
    /// The arithmetic.
    pub working: Working,
}

pub(crate) fn said(title: impl Into<String>, text: impl Into<String>, working: Working) -> Said {
    Said {
        title: title.into(),
        text: text.into(),
        working,
    }
}
