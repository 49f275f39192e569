//! Keys of forms: the same form sent twice, by a second click, a reload or a proxy, is done once.

use crate::error::AppError;

/// Sixteen bytes of the system's strong randomness, in hexadecimal.
///
/// # Errors
/// The system gives none.
pub fn fresh() -> Result<String, AppError> {
    let mut bytes = [0_u8; 16];
    getrandom::fill(&mut bytes).map_err(AppError::broken)?;
    Ok(bytes.iter().map(|b| format!("{b:02x}")).collect())
}

/// A key for a form as it is shown; without one it is done as often as it is sent.
pub fn for_form() -> String {
    fresh().unwrap_or_default()
}

/// Own edits that one may be made on top of, at most.
pub const MOST_OWN: usize = 500;

/// The key that came with a form: letters, digits and hyphens, up to 64.
pub fn of(text: &str) -> Option<String> {
    let sound =
        (8..=64).contains(&text.len()) && text.bytes().all(|b| b.is_ascii_alphanumeric() || b == b'-');
    sound.then(|| text.to_owned())
}
