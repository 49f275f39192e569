//! Heights read from words: `12,50`, `+1.20 m`, `FFL 12.50`.

/// A height as it is written: the figure, and metres to its unit where it says one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Written {
    pub figure: f64,
    pub metres: Option<f64>,
}

/// The height in a text; none where no figure stands in it, or more than one.
pub(super) fn written(text: &str) -> Option<Written> {
    let mut found = None;
    let mut rest = text;
    while let Some(start) = rest.find(|c: char| c.is_ascii_digit()) {
        let before = &rest[..start];
        let tail = &rest[start..];
        let end = tail.find(|c: char| !c.is_ascii_digit() && c != '.' && c != ',').unwrap_or(tail.len());
        let number = tail[..end].trim_end_matches(['.', ',']);
        // A figure within a word, as in `TP3`, names something.
        let named = before.chars().next_back().is_some_and(char::is_alphabetic);
        rest = &tail[end..];
        if named {
            continue;
        }
        if found.is_some() {
            return None;
        }
        let figure: f64 = number.replace(',', ".").parse().ok()?;
        let lower = before.trim_end().ends_with(['-', '−']);
        let unit: String =
            rest.trim_start().chars().take_while(|c| c.is_alphabetic() || *c == '\'').collect();
        let metres = match unit.to_lowercase().as_str() {
            "m" => Some(1.0),
            "cm" => Some(0.01),
            "mm" => Some(0.001),
            "ft" | "'" | "feet" => Some(0.3048),
            "in" => Some(0.0254),
            _ => None,
        };
        let figure = if lower { -figure } else { figure };
        found = Some(Written { figure, metres });
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn heights_are_read_as_surveyors_write_them() {
        let is = |text: &str, figure: f64, metres: Option<f64>| {
            assert_eq!(written(text), Some(Written { figure, metres }), "{text}");
        };
        is("12,50", 12.5, None);
        is("+1.20 m", 1.2, Some(1.0));
        is("FFL 12.50", 12.5, None);
        is("-0.35", -0.35, None);
        is("\u{2212}0,35m", -0.35, Some(1.0));
        is("TP3 101.25", 101.25, None);
        is("IL = 3'", 3.0, Some(0.3048));
        is("1250 mm", 1250.0, Some(0.001));
        is("12.", 12.0, None);
        for none in ["", "see note", "TP3", "1.2 to 1.4", "12.5.6"] {
            assert_eq!(written(none), None, "{none}");
        }
    }
}
