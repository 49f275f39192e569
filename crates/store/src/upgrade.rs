//! Rows written by earlier versions of Fenlo, brought up to this one step by step. A newer one is refused:
//! reading it as if it were ours would lose what we do not know.

use crate::StoreError;
use serde_json::Value;

/// The version that edits and snapshots are written in.
pub(crate) const FORMAT: i16 = 1;

/// Brings a value from its version to the next.
type Step = fn(&mut Value);

/// What a row is, since each changes in its own way.
#[derive(Clone, Copy)]
pub(crate) enum Row {
    Edit,
    Snapshot,
}

/// The step at index n leads from version n + 1 to n + 2.
const EDITS: [Step; FORMAT as usize - 1] = [];
const SNAPSHOTS: [Step; FORMAT as usize - 1] = [];

/// A row of some version in the form of this one.
///
/// # Errors
/// [`StoreError::Newer`].
pub(crate) fn upgraded(job: i64, row: Row, format: i16, value: Value) -> Result<Value, StoreError> {
    let steps: &[Step] = match row {
        Row::Edit => &EDITS,
        Row::Snapshot => &SNAPSHOTS,
    };
    through(job, format, value, steps)
}

fn through(job: i64, format: i16, mut value: Value, steps: &[Step]) -> Result<Value, StoreError> {
    let known = steps.len() as i16 + 1;
    if format > known || format < 1 {
        return Err(StoreError::Newer { job, format, known });
    }
    for step in &steps[format as usize - 1..] {
        step(&mut value);
    }
    Ok(value)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::json;

    /// Twice something changes: a name, then a unit.
    const STEPS: [Step; 2] = [
        |v| {
            let old = v.as_object_mut().and_then(|o| o.remove("label"));
            v["name"] = old.unwrap_or_default();
        },
        |v| v["width_m"] = json!(v["width_ft"].as_f64().unwrap_or_default() * 0.3048),
    ];

    #[test]
    fn a_row_goes_through_every_step_since_it_was_written() {
        let first = through(1, 1, json!({"label": "Front", "width_ft": 10.0}), &STEPS).unwrap();
        assert_eq!((&first["name"], &first["width_m"]), (&json!("Front"), &json!(3.048)));
        let second = through(1, 2, json!({"name": "Front", "width_ft": 10.0}), &STEPS).unwrap();
        assert_eq!(second["width_m"], json!(3.048));
        let newest = json!({"name": "Front", "width_m": 3.0});
        assert_eq!(through(1, 3, newest.clone(), &STEPS).unwrap(), newest);
    }

    #[test]
    fn a_newer_row_is_refused_in_a_sentence() {
        let refused = through(7, 4, json!({}), &STEPS).unwrap_err().to_string();
        assert_eq!(
            refused,
            "job 7 was written by a newer Fenlo (format 4; this one knows up to 3): update this server to \
                open it"
        );
        assert!(through(7, 0, json!({}), &STEPS).is_err());
    }
}
