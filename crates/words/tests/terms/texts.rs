//! What people read, taken out of the sources: strings of Rust and scripts, text and labels of templates,
//! cells of the tables that name products.

use std::path::Path;

/// A text and where it stands.
pub struct Text {
    pub at: String,
    pub says: String,
}

/// The texts of a file; none of files that nobody reads.
pub fn texts(file: &Path) -> Vec<Text> {
    let Ok(source) = std::fs::read_to_string(file) else {
        return Vec::new();
    };
    let name = file.to_string_lossy().replace('\\', "/");
    let name = name.rsplit_once("/../../").map_or(name.as_str(), |n| n.1).to_owned();
    if ["/tests.rs", "VENDORED.md"].iter().any(|f| name.ends_with(f)) {
        return Vec::new();
    }
    let ending = file.extension().map_or_else(String::new, |e| e.to_string_lossy().into_owned());
    let found = match ending.as_str() {
        "rs" => strings(without_tests(&source), true),
        "js" => strings(&source, false),
        "html" => of_template(&source),
        "csv" if name.contains("catalogue/data") => cells(&source),
        "md" => source.lines().enumerate().map(|(i, l)| (i + 1, l.to_owned())).collect(),
        _ => Vec::new(),
    };
    let read = |(line, says): &(usize, String)| is_read(says) && !is_code(&source, *line, says);
    let markdown = ending == "md";
    let mut fence = false;
    let found = found.into_iter().filter(|(line, says)| {
        if markdown {
            fence ^= says.starts_with("```");
            return !fence && !says.starts_with("```");
        }
        read(&(*line, says.clone()))
    });
    found.map(|(line, says)| Text { at: format!("{name}:{line}"), says }).collect()
}

/// A module of tests at the end of a file is nothing that is shown.
fn without_tests(source: &str) -> &str {
    let tests = source.find("#[cfg(test)]\nmod tests {");
    &source[..tests.unwrap_or(source.len())]
}

/// Two words, or one that begins with a capital: not an id, a class or a path.
fn is_read(says: &str) -> bool {
    let words = says.split_whitespace().filter(|w| w.chars().any(char::is_alphabetic)).count();
    let capital = says.chars().next().is_some_and(char::is_uppercase);
    words > 1 || (capital && says.chars().skip(1).any(char::is_lowercase))
}

/// Drawings, queries, selectors, logs, and what only a fault of the program would print.
fn is_code(source: &str, line: usize, says: &str) -> bool {
    let own = source.lines().nth(line - 1).unwrap_or_default();
    let code =
        ["tracing::", "expect(", "panic!", "assert", "querySelector", "reason =", "serde(", "sqlx", "#[doc"];
    let inside = [
        "\n}",
        ";\n",
        "<svg",
        "<path",
        "<rect",
        "<circle",
        "<g ",
        "<text",
        "<tspan",
        "hx-",
        "data-",
        "select ",
        "insert ",
        "update ",
        "delete from",
        "viewBox",
    ];
    let selector = says.starts_with(['.', '#', '[', '/']) || says.contains(" > .") || says.contains("=>");
    code.iter().any(|c| own.contains(c)) || inside.iter().any(|c| says.contains(c)) || selector
}

/// Strings of a source with the line each begins in; comments are none, lines that go on are joined.
fn strings(source: &str, rust: bool) -> Vec<(usize, String)> {
    let text: Vec<char> = source.chars().collect();
    let (mut found, mut i, mut line) = (Vec::new(), 0, 1);
    while i < text.len() {
        let rest = |n: usize| text.get(i + n).copied().unwrap_or(' ');
        match text[i] {
            '\n' => line += 1,
            '/' if rest(1) == '/' => {
                while i < text.len() && text[i] != '\n' {
                    i += 1;
                }
                continue;
            }
            '/' if rest(1) == '*' => {
                while i + 1 < text.len() && (text[i], text[i + 1]) != ('*', '/') {
                    line += usize::from(text[i] == '\n');
                    i += 1;
                }
            }
            // A raw string: marks of its own, nothing escaped.
            'r' if rust
                && (rest(1) == '"' || rest(1) == '#')
                && !text[i.saturating_sub(1)].is_alphanumeric() =>
            {
                let marks = text[i + 1..].iter().take_while(|c| **c == '#').count();
                if rest(1 + marks) == '"' {
                    let end: Vec<char> =
                        std::iter::once('"').chain(std::iter::repeat_n('#', marks)).collect();
                    let from = i + 2 + marks;
                    let to = (from..text.len()).find(|n| text[*n..].starts_with(&end)).unwrap_or(text.len());
                    let says: String = text[from..to].iter().collect();
                    found.push((line, says.clone()));
                    line += says.matches('\n').count();
                    i = to + marks;
                }
            }
            // A character, or a lifetime.
            '\'' if rust => {
                i += match (rest(1), rest(2), rest(3)) {
                    ('\\', _, '\'') => 3,
                    (_, '\'', _) => 2,
                    _ => 0,
                };
            }
            mark @ ('"' | '`' | '\'') if mark == '"' || !rust => {
                let begins = line;
                let mut says = String::new();
                i += 1;
                while i < text.len() && text[i] != mark {
                    if text[i] == '\\' {
                        i += 1;
                        if text.get(i) == Some(&'\n') {
                            line += 1;
                            while text.get(i + 1).is_some_and(|c| c.is_whitespace()) {
                                i += 1;
                            }
                        } else {
                            says.push(if text.get(i) == Some(&'"') { '"' } else { ' ' });
                        }
                    } else {
                        line += usize::from(text[i] == '\n');
                        says.push(text[i]);
                    }
                    i += 1;
                }
                found.push((begins, says));
            }
            _ => {}
        }
        i += 1;
    }
    found
}

/// Text between tags, labels in attributes, strings that a template gives to its macros.
fn of_template(source: &str) -> Vec<(usize, String)> {
    let mut found = macro_strings(source);
    let mut text = String::new();
    // What a template decides is no tag, though it compares.
    let plain = without_code(source);
    let source = plain.as_str();
    let mut rest = source;
    let line = |rest: &str| source[..source.len() - rest.len()].matches('\n').count() + 1;
    while let Some(c) = rest.chars().next() {
        if c == '<' {
            if !text.trim().is_empty() {
                found.push((line(rest), std::mem::take(&mut text)));
            }
            text.clear();
            let to = rest.find('>').map_or(rest.len(), |n| n + 1);
            let tag = &rest[..to];
            for name in ["aria-label=\"", "placeholder=\"", "title=\"", "alt=\"", " label=\""] {
                for part in tag.split(name).skip(1) {
                    found.push((line(rest), part.split('"').next().unwrap_or_default().to_owned()));
                }
            }
            rest = &rest[to..];
        } else {
            text.push(c);
            rest = &rest[c.len_utf8()..];
        }
    }
    found.push((line(rest), text));
    let folded = |says: String| says.split_whitespace().collect::<Vec<_>>().join(" ");
    found.into_iter().map(|(l, says)| (l, folded(says))).collect()
}

/// Strings that a template gives to its macros.
fn macro_strings(source: &str) -> Vec<(usize, String)> {
    let mut found = Vec::new();
    for (at, _) in source.match_indices("{% call ") {
        let code = &source[at..];
        let code = &code[..code.find("%}").unwrap_or(code.len())];
        let line = source[..at].matches('\n').count() + 1;
        found.extend(strings(code, true).into_iter().map(|(_, says)| (line, says)));
    }
    found
}

/// The template with `{}` for what it fills in and nothing for what it decides; its lines stay.
fn without_code(source: &str) -> String {
    let mut out = String::new();
    let mut rest = source;
    while let Some(at) = rest.find("{%").into_iter().chain(rest.find("{{")).min() {
        out.push_str(&rest[..at]);
        let end = if rest[at..].starts_with("{%") { "%}" } else { "}}" };
        let to = rest[at..].find(end).map_or(rest.len(), |n| at + n + 2);
        out.push_str(if end == "}}" { "{}" } else { "" });
        out.extend(rest[at..to].chars().filter(|c| *c == '\n'));
        rest = &rest[to..];
    }
    out + rest
}

/// Cells that name a product: they hold a blank, or begin with a capital.
fn cells(source: &str) -> Vec<(usize, String)> {
    let mut found = Vec::new();
    for (i, line) in source.lines().enumerate().skip(1) {
        // Ids and ends of parts are no names.
        let cells = line.split(',').map(|c| c.trim_matches('"').trim());
        let named =
            cells.filter(|c| c.starts_with(char::is_uppercase) || (c.contains(' ') && c.ends_with('.')));
        found.extend(named.map(|c| (i + 1, c.to_owned())));
    }
    found
}
