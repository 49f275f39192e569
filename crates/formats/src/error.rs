use fenlo_core::plan::Fault;

/// The largest file read, bytes.
pub(crate) const MOST_BYTES: usize = 64 * 1024 * 1024;

/// Why a file was refused: one fault or many, each with its path.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{}", .0.iter().map(ToString::to_string).collect::<Vec<_>>().join("\n"))]
pub struct ReadError(pub Vec<Fault>);

impl ReadError {
    pub(crate) fn one(path: impl Into<String>, message: impl Into<String>) -> Self {
        Self(vec![Fault { path: path.into(), message: message.into() }])
    }
}

/// Reads JSON into a type; the first fault of form with its path.
pub(crate) fn from_json<'a, T: serde::Deserialize<'a>>(bytes: &'a [u8], most: usize) -> Result<T, ReadError> {
    if bytes.len() > most {
        return Err(ReadError::one(
            "file",
            format!("is {} MB; at most {} MB are read", bytes.len() / 1_000_000, most / 1_000_000),
        ));
    }
    // To know the path of a fault costs three times the reading: only what has a fault is read so.
    if let Ok(value) = serde_json::from_slice(bytes) {
        return Ok(value);
    }
    let mut json = serde_json::Deserializer::from_slice(bytes);
    let value = serde_path_to_error::deserialize(&mut json).map_err(|e| {
        let path = match e.path().to_string() {
            path if path == "." => "file".to_owned(),
            path => path,
        };
        ReadError::one(path, e.into_inner().to_string())
    })?;
    json.end().map_err(|e| ReadError::one("file", e.to_string()))?;
    Ok(value)
}
