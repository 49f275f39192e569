//! How the server is run: the usual values, then a file, then the environment, then the command line.

use crate::io::BadInput;
use anyhow::{Context, Result};
use fenlo_web::Config;
use std::fmt::Write;
use std::path::{Path, PathBuf};
use toml::{Table, Value};

/// Names that are also read without our prefix, as is usual.
const ALSO: [(&str, &str); 2] = [("database_url", "DATABASE_URL"), ("log", "RUST_LOG")];

/// The configuration of a server: `file` (or `FENLO_CONFIG`), and over it the environment.
pub fn load(file: Option<&Path>) -> Result<Config> {
    let file = file.map(Path::to_owned);
    let file = file.or_else(|| std::env::var_os("FENLO_CONFIG").map(PathBuf::from));
    let text = match &file {
        Some(path) => std::fs::read_to_string(path).with_context(|| format!("{}", path.display()))?,
        None => String::new(),
    };
    from(&text, |name| std::env::var(name).ok()).map_err(|message| {
        let of = file.map_or_else(String::new, |f| format!("{}: ", f.display()));
        BadInput::from(format!("{of}{message}"))
    })
}

fn from(text: &str, environment: impl Fn(&str) -> Option<String>) -> Result<Config, String> {
    let mut table: Table = text.parse().map_err(|e: toml::de::Error| e.to_string())?;
    let usual = Table::try_from(Config::default()).map_err(|e| e.to_string())?;
    for (name, _) in Config::MEANINGS {
        let ours = format!("FENLO_{}", name.to_uppercase());
        let also = ALSO.iter().find(|a| a.0 == name).and_then(|a| environment(a.1));
        if let Some(said) = environment(&ours).or(also) {
            let value =
                typed(&said, usual.get(name)).ok_or_else(|| format!("{ours}: invalid value ‘{said}’"))?;
            table.insert(name.to_owned(), value);
        }
    }
    let config: Config = table.try_into().map_err(|e: toml::de::Error| e.to_string())?;
    match config.faults().first() {
        Some((name, expected)) => Err(format!("{name}: {expected}")),
        None => Ok(config),
    }
}

/// What the environment says, of the kind that the value usually has; lists are separated by commas.
fn typed(said: &str, usual: Option<&Value>) -> Option<Value> {
    Some(match usual {
        Some(Value::Integer(_)) => Value::Integer(said.trim().parse().ok()?),
        Some(Value::Boolean(_)) => Value::Boolean(said.trim().parse().ok()?),
        Some(Value::Array(_)) => {
            let each = said.split(',').map(str::trim).filter(|s| !s.is_empty());
            Value::Array(each.map(|s| Value::String(s.to_owned())).collect())
        }
        _ => Value::String(said.to_owned()),
    })
}

/// The file that says what a configuration is, with what each value is for.
pub fn written(config: &Config) -> Result<String> {
    let values = serde_json::to_value(config)?;
    let mut out = String::from(
        "# How a Fenlo server is run. Every value may also come from the environment: FENLO_ and its name \
            in capitals.\n",
    );
    for (name, meaning) in Config::MEANINGS {
        let _ = write!(out, "\n# {meaning}\n");
        match &values[name] {
            serde_json::Value::Null => writeln!(out, "# {name} = \"\"")?,
            // A password is not shown to whoever looks over a shoulder.
            serde_json::Value::String(url) if name == "database_url" && url.contains('@') => {
                let behind = url.rsplit_once('@').map_or("", |u| u.1);
                writeln!(out, "# {name} is set: …@{behind}")?;
            }
            serde_json::Value::Array(urls) if name == "database_standbys" && !urls.is_empty() => {
                writeln!(out, "# {name}: {} are set", urls.len())?;
            }
            // Texts, numbers, truths and lists of them are written alike in JSON and here.
            value => writeln!(out, "{name} = {value}")?,
        }
    }
    Ok(out)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn nothing(_: &str) -> Option<String> {
        None
    }

    #[test]
    fn what_is_printed_is_read_back() {
        let usual = written(&Config::default()).unwrap();
        assert_eq!(from(&usual, nothing).unwrap(), Config::default());
        for (name, _) in Config::MEANINGS {
            assert!(usual.contains(name), "{name} is explained");
        }
        let values = serde_json::to_value(Config::default()).unwrap();
        assert_eq!(values.as_object().unwrap().len(), Config::MEANINGS.len(), "every value is explained");
    }

    #[test]
    fn the_environment_stands_over_the_file() {
        let said = |name: &str| match name {
            "FENLO_HOSTS" => Some("plots.example, www.plots.example".to_owned()),
            "FENLO_CONNECTIONS" => Some("50".to_owned()),
            "FENLO_TLS_IN_FRONT" => Some("true".to_owned()),
            "DATABASE_URL" => Some("postgres://u:secret@h/fenlo".to_owned()),
            _ => None,
        };
        let config = from("connections = 90\nidle = 3", said).unwrap_err();
        assert!(config.contains("idle"), "a name that is not known is told: {config}");
        let config = from("connections = 90\nheader_seconds = 7", said).unwrap();
        assert_eq!((config.connections, config.header_seconds), (50, 7));
        assert_eq!(config.hosts, ["plots.example", "www.plots.example"]);
        assert!(config.tls_in_front);
        let shown = written(&config).unwrap();
        assert!(!shown.contains("secret"), "{shown}");
    }

    #[test]
    fn values_that_can_t_be_are_told_with_what_is_expected() {
        let of = |text: &str| from(text, nothing).unwrap_err();
        assert_eq!(of("connections = 3"), "connections: 10 to 20000");
        assert!(of("hosts = [\"https://plots.example\"]").starts_with("hosts: names"));
        assert!(of("listen = \"here\"").contains("listen"));
        let env = |name: &str| (name == "FENLO_CONNECTIONS").then(|| "many".to_owned());
        assert_eq!(from("", env).unwrap_err(), "FENLO_CONNECTIONS: invalid value ‘many’");
    }
}
