//! Names of things, one for each, in every language: screens, reports, drawings and documents take them from
//! here. Products are named by the catalogue's own tables.

use std::collections::HashMap;
use std::sync::LazyLock;

/// A reader's language.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Lang {
    /// English, as the trade in the US writes it.
    En,
    /// Spanish, as crews from Mexico and Central America read it.
    Es,
}

struct Row {
    key: &'static str,
    names: [&'static str; 2],
}

static TABLE: LazyLock<Vec<Row>> = LazyLock::new(|| {
    let lines = include_str!("terms.csv").lines().skip(1);
    let row = |line: &'static str| {
        let mut cells = line.split(';');
        let mut next = || cells.next().unwrap_or_default();
        Row { key: next(), names: [next(), next()] }
    };
    lines.map(row).collect()
});

static BY_KEY: LazyLock<HashMap<&str, &Row>> = LazyLock::new(|| TABLE.iter().map(|r| (r.key, r)).collect());

/// The name of a thing by its key, such as `dry.car-park`. A key that the table lacks is given back: a test
/// holds that none does.
pub fn term(key: &'static str, lang: Lang) -> &'static str {
    BY_KEY.get(key).map_or(key, |r| r.names[lang as usize])
}

/// The things of a group, each by its id and its English name, in the order in which they are offered.
pub fn terms(group: &str) -> impl Iterator<Item = (&'static str, &'static str)> {
    TABLE.iter().filter_map(move |r| {
        let (of, id) = r.key.split_once('.')?;
        (of == group).then_some((id, r.names[0]))
    })
}

/// Every name in English and in Spanish.
pub fn pairs() -> impl Iterator<Item = (&'static str, &'static str)> {
    TABLE.iter().map(|r| (r.names[0], r.names[1]))
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_name_stands_once_and_in_both_languages() {
        let mut keys = HashSet::new();
        for row in TABLE.iter() {
            assert!(keys.insert(row.key), "{} appears twice", row.key);
            assert!(row.names.iter().all(|n| !n.is_empty()), "{}", row.key);
        }
        let line = include_str!("terms.csv").lines().find(|l| l.split(';').count() != 3);
        assert_eq!(line, None);
    }

    #[test]
    fn names_are_found_by_key_and_by_group() {
        assert_eq!(term("dry.car-park", Lang::En), "Parking lot");
        assert_eq!(term("dry.car-park", Lang::Es), "Estacionamiento");
        let joints: Vec<_> = terms("joint").map(|t| t.0).collect();
        assert_eq!(joints, ["tee", "isolation", "drain", "flush", "stub"]);
        // A name of one group may not stand for another thing in it.
        for group in ["area", "dry", "marker", "head", "joint", "source", "method"] {
            let names: HashSet<_> = terms(group).map(|t| t.1).collect();
            assert_eq!(names.len(), terms(group).count(), "{group}");
        }
    }
}
