//! What a rendered text may not be, with its figures in place: tests of several crates take this file in.

/// What a count is followed by, one and several.
const COUNTED: [(&str, &str); 30] = [
    ("head", "heads"),
    ("valve", "valves"),
    ("zone", "zones"),
    ("row", "rows"),
    ("area", "areas"),
    ("part", "parts"),
    ("day", "days"),
    ("station", "stations"),
    ("section", "sections"),
    ("crossing", "crossings"),
    ("emitter", "emitters"),
    ("plant", "plants"),
    ("stick", "sticks"),
    ("coil", "coils"),
    ("wire", "wires"),
    ("line", "lines"),
    ("spot", "spots"),
    ("box", "boxes"),
    ("sleeve", "sleeves"),
    ("filter", "filters"),
    ("job", "jobs"),
    ("nozzle", "nozzles"),
    ("change", "changes"),
    ("version", "versions"),
    ("price", "prices"),
    ("piece", "pieces"),
    ("place", "places"),
    ("corner", "corners"),
    ("point", "points"),
    ("year", "years"),
];

/// Where a text is not as people say it: a count and its noun that disagree, or a hyphen for a minus.
pub fn unplain(text: &str) -> Option<String> {
    let words: Vec<&str> = text.split_whitespace().collect();
    let pair = words.windows(2).find_map(|pair| {
        // `valve 1, heads` is no count.
        if pair[0].ends_with([',', ';', ':', '.']) {
            return None;
        }
        let (count, noun) = (bare(pair[0]), bare(pair[1]));
        let several = COUNTED.iter().any(|c| c.1 == noun) && count == "1";
        let other = count != "1" && count.replace(',', "").parse::<u32>().is_ok();
        // `12 valve boxes`: a noun before another is no count of it.
        let ends = pair[1] != noun || words.last() == Some(&pair[1]);
        let single = COUNTED.iter().any(|c| c.0 == noun) && other && ends;
        (several || single).then(|| pair.join(" "))
    });
    let minus = words
        .iter()
        .find(|w| w.strip_prefix('-').is_some_and(|w| w.starts_with(|c: char| c.is_ascii_digit())));
    pair.or(minus.map(|w| (*w).to_owned()))
}

/// A figure with two decimals and nothing behind it that says of what: on a page of prices an amount whose
/// currency is missing.
pub fn bare_amount(text: &str) -> Option<String> {
    let words: Vec<&str> = text.split_whitespace().collect();
    let cents = |w: &str| {
        let (whole, part) = bare(w).trim_start_matches('−').rsplit_once('.')?;
        let digits = |t: &str| !t.is_empty() && t.bytes().all(|b| b.is_ascii_digit() || b == b',');
        (part.len() == 2 && digits(whole) && digits(part)).then_some(())
    };
    words.iter().enumerate().find_map(|(i, word)| {
        cents(word)?;
        let ends = bare(word).len() < word.trim_start_matches(['(', '[']).len();
        let unit = words.get(i + 1).filter(|_| !ends);
        unit.is_none_or(|u| !u.starts_with(char::is_alphabetic)).then(|| (*word).to_owned())
    })
}

fn bare(word: &str) -> &str {
    word.trim_matches(|c: char| "()[],.;:".contains(c))
}
