//! Sums of money as people write them.

use rust_decimal::Decimal;

/// Which sign stands before the cents in a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Sign {
    /// 1,234.50
    Point,
    /// 1.234,50
    Comma,
}

/// Reads a sum. A sign of the currency may stand before or after it. What could mean two things is refused.
pub(super) fn read_money(text: &str, sign: Sign) -> Result<Decimal, String> {
    let bare: String = text
        .trim()
        .trim_start_matches('\'')
        .trim_matches(|c: char| c.is_alphabetic() || "$€£¥ \u{a0}".contains(c))
        .chars()
        .filter(|c| !c.is_whitespace() && *c != '\u{202f}')
        .collect();
    let digits = bare.trim_start_matches(['-', '+']);
    if digits.is_empty()
        || digits.len() > 20
        || digits.chars().any(|c| !c.is_ascii_digit() && c != '.' && c != ',')
    {
        return Err("is not an amount. Use a form such as 12.50".into());
    }
    let (thousands, cents) = match sign {
        Sign::Point => (',', '.'),
        Sign::Comma => ('.', ','),
    };
    let (whole, part) = digits.split_once(cents).unwrap_or((digits, ""));
    if part.contains([',', '.']) {
        return Err("has two signs before its cents".into());
    }
    let grouped = whole.contains(thousands);
    let sound = |w: &str| {
        let groups: Vec<&str> = w.split(thousands).collect();
        (1..=3).contains(&groups[0].len()) && groups[1..].iter().all(|g| g.len() == 3)
    };
    if grouped && !sound(whole) {
        // 12,5 in a file with points: a comma before the tenths, which this file does not use elsewhere.
        return Err(format!("is ambiguous. Use ‘{cents}’ before the cents"));
    }
    let plain = format!(
        "{}{}.{}",
        if bare.starts_with('-') { "-" } else { "" },
        whole.replace(thousands, ""),
        if part.is_empty() { "0" } else { part }
    );
    let sum: Decimal = plain.parse().map_err(|_| "is not an amount. Use a form such as 12.50".to_owned())?;
    Ok(sum.normalize())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sums_are_read_as_they_are_written_here_and_there() {
        let point = |t: &str| read_money(t, Sign::Point).map(|d| d.to_string());
        let comma = |t: &str| read_money(t, Sign::Comma).map(|d| d.to_string());
        assert_eq!(point("$1,234.50").as_deref(), Ok("1234.5"));
        assert_eq!(comma("1.234,50 €").as_deref(), Ok("1234.5"));
        assert_eq!(point("0.31").as_deref(), Ok("0.31"));
        assert_eq!(point("1,200").as_deref(), Ok("1200"), "a thousand");
        assert_eq!(comma("12").as_deref(), Ok("12"));
        assert_eq!(point("USD 7").as_deref(), Ok("7"));
        for odd in ["12,5", "1,23.4", "twelve", "", "1.2.3", "1e12", "=1+1", "NaN"] {
            assert!(point(odd).is_err(), "{odd}");
        }
    }
}
