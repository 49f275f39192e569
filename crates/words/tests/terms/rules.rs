//! What a text may not say. A word is forbidden with what is said instead; where a trade term holds it, that
//! is let through.

use crate::texts::Text;

/// Words that nobody reads without stopping, with what is said instead.
const RIDDLES: &[(&str, &str)] = &[
    ("reckon", "calculate"),
    ("reckoned", "calculated"),
    ("anew", "again"),
    ("beside", "next to, with"),
    ("hence", "so"),
    ("so many", "a number"),
    ("it stands", "it is"),
    ("stands", "is"),
    ("want", "need"),
    ("wants", "needs"),
    ("mend", "fix"),
    ("mends", "fixes"),
    ("told", "reported"),
    ("tells", "shows"),
    ("made-up", "sample"),
    ("held against", "compared with"),
    ("comes to", "is"),
    ("come to", "are"),
    ("at the least", "minimum"),
    ("at the most", "maximum"),
    ("next to nothing", "almost none"),
    ("as it would be", "preview"),
    ("starve", "get too little"),
    ("starves", "gets too little"),
    ("robs", "leaves without"),
    ("eats", "loses"),
    ("eaten", "used"),
    ("hangs", "is connected"),
    ("thirsty", "high water use"),
    ("meanwhile", "at the same time"),
    ("somebody", "someone"),
    ("in all", "total"),
];

/// The other term for a thing that has one of ours.
const OTHER_TERMS: &[(&str, &str)] = &[
    ("last head", "weakest head"),
    ("worst head", "weakest head"),
    ("throw", "radius"),
    ("throws", "radius"),
    ("kind", "type"),
    ("kinds", "types"),
    ("leg", "section"),
    ("legs", "sections"),
    ("stretches", "sections"),
    ("tube", "tubing"),
    ("tubes", "tubing"),
    ("set point", "setting"),
    ("module", "regulator on valve"),
    ("preset", "in-line regulator"),
    ("nominal", "rated"),
    ("spread", "pressure variation"),
    ("pressure walk", "pressure profile"),
    ("evenness", "uniformity, DU"),
    ("the board", "site plan"),
    ("off the board", "from the plan"),
    ("watered ground", "irrigated area"),
    ("keep-dry", "no-spray area"),
    ("kept dry", "no-spray area"),
    ("keep dry", "no-spray area"),
    ("paving", "pavement"),
    ("car park", "parking lot"),
    ("tap", "hose bib"),
    ("the street", "city water"),
    ("the house", "company, or indoor"),
    ("house rules", "design standards"),
    ("house rule", "company standard"),
    ("backflow device", "backflow preventer"),
    ("carriage", "freight"),
    ("sundries", "miscellaneous"),
    ("goods", "materials"),
    ("tariff", "water rates"),
    ("rhythm", "frequency"),
    ("regime", "watering level"),
    ("bush", "bushing"),
    ("pick", "select, choose"),
    ("picked", "selected"),
    ("set points", "settings"),
    ("the main", "mainline"),
    ("mains", "mainline"),
    ("micro tube", "micro tubing"),
    ("drip tube", "drip tubing"),
    ("half-inch", "1/2 in"),
    ("quarter-inch", "1/4 in"),
    ("aimed", "target"),
];

/// Spelling of the US, whole words and beginnings.
const SPELLING: &[(&str, &str)] = &[
    ("colour", "color"),
    ("colours", "colors"),
    ("centre", "center"),
    ("grey", "gray"),
    ("labour", "labor"),
    ("catalogue", "catalog"),
    ("programme", "program"),
    ("programmes", "programs"),
    ("metre", "meter"),
    ("metres", "meters"),
    ("litre", "liter"),
    ("litres", "liters"),
    ("licence", "license"),
    ("fertiliser", "fertilizer"),
    ("galvanised", "galvanized"),
    ("neighbour", "neighbor"),
    ("neighbours", "neighbors"),
    ("ageing", "aging"),
    ("behaviour", "behavior"),
    ("furthest", "farthest"),
    ("shut-off", "shutoff"),
    ("towards", "toward"),
    ("can't", "cannot"),
    ("doesn't", "does not"),
    ("don't", "do not"),
    ("isn't", "is not"),
];

/// Trade terms, file columns and commands that hold a word of the lists.
const KEPT: &[&str] = &[
    "street elbow",
    "station module",
    "nominal size",
    "spread between simulations",
    "under the last head of a lateral",
    "carriage free from",
    "minimum, carriage, free from",
    "name, kind, pressure",
    "name,kind,pressure",
    "column ‘kind’",
    "kind is ‘",
    "--kind",
    "kind: kind",
    "weak last head",
    "module preset reducer",
    "tube 16mm",
    "tube 16 mm",
    "tube 32 mm",
    "‘{programme}’",
    "tube {size}",
    "fenlo-programme",
    "pipe-main-s1",
    "`main`",
    "on the main branch",
    "one of each kind",
];

/// What is wrong with a text, in a few words each.
pub fn faults(text: &Text) -> Vec<String> {
    let mut says = text.says.to_lowercase().replace('’', "'");
    for kept in KEPT {
        says = says.replace(&kept.replace('’', "'"), "");
    }
    // What stands in braces is code.
    let says = without_braces(&says);
    let mut found = Vec::new();
    for (word, better) in RIDDLES.iter().chain(OTHER_TERMS).chain(SPELLING) {
        if has_word(&says, word) {
            found.push(format!("not ‘{word}’ but {better}"));
        }
    }
    if ["{} %", "0 %", "1 %", "5 %"].iter().any(|p| says.contains(p)) {
        found.push("no space before %".into());
    }
    found.extend(bare_count(&text.says));
    found
}

fn without_braces(says: &str) -> String {
    let mut out = String::new();
    let mut depth = 0;
    for c in says.chars() {
        match c {
            '{' => {
                if depth == 0 {
                    out.push_str("{}");
                }
                depth += 1;
            }
            '}' => depth = i32::max(depth - 1, 0),
            _ if depth == 0 => out.push(c),
            _ => {}
        }
    }
    out
}

/// True where a word or phrase stands there whole; a hyphen belongs to a word.
fn has_word(says: &str, word: &str) -> bool {
    let inner = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || "-_/".contains(c));
    says.match_indices(word).any(|(at, _)| {
        let before = says[..at].chars().next_back();
        let after = says[at + word.len()..].chars().next();
        !inner(before) && !inner(after)
    })
}

/// A count that stands as the subject of a sentence by itself: `{n} are on no valve`.
fn bare_count(says: &str) -> Option<String> {
    const COUNTS: [&str; 12] = [
        "n", "count", "heads", "valves", "zones", "rows", "stations", "parts", "loose", "lines", "areas",
        "wrong",
    ];
    const VERBS: [&str; 14] = [
        "is", "are", "has", "have", "was", "were", "would", "use", "uses", "need", "needs", "stay", "stays",
        "move",
    ];
    let open = says.find('{')?;
    let close = says[open..].find('}')? + open;
    let name = says[open + 1..close].split(':').next()?.trim();
    let verb = says[close + 1..].strip_prefix(' ')?.split_whitespace().next()?;
    let begins = says[..open].trim_end().chars().next_back().is_none_or(|c| ".;:".contains(c));
    (begins && COUNTS.contains(&name) && VERBS.contains(&verb))
        .then(|| format!("‘{{{name}}} {verb}’ has no noun"))
}
