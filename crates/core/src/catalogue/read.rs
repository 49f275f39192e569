//! Rows of the CSV files in the crate.

/// All rows of a table that is compiled in; a broken table is a bug that a test finds.
pub(super) fn rows<T: serde::de::DeserializeOwned>(text: &str) -> Vec<T> {
    csv::Reader::from_reader(text.as_bytes())
        .deserialize()
        .collect::<Result<_, _>>()
        .expect("the built-in tables are well formed")
}
