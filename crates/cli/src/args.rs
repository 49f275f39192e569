use clap::{Parser, Subcommand, ValueEnum};
use std::net::SocketAddr;
use std::path::PathBuf;

/// Design and check irrigation zones: heads per valve, pressure at every head, regulators
#[derive(Parser)]
#[command(name = "fenlo", version, max_term_width = 100)]
pub struct Args {
    #[command(subcommand)]
    pub command: Command,
}

#[derive(Subcommand)]
pub enum Command {
    /// Solve a network (fenlo-network/1) and print the result as JSON
    Solve {
        /// Job file, or - for standard input
        file: PathBuf,
        /// Print to standard error what reading, solving and writing took, in microseconds
        #[arg(long)]
        timings: bool,
    },
    /// Check a whole job (fenlo-job/1): design flow, zones, findings, remedies
    Check {
        /// Job file, or - for standard input
        file: PathBuf,
        #[arg(long, value_enum, default_value = "text")]
        format: Format,
    },
    /// Heads per valve, pressure at the weakest head, and regulator choice
    Quick(Box<QuickArgs>),
    /// Propose a whole plan for drawn ground: heads, valves, pipe, sizes, regulators
    Propose(ProposeArgs),
    /// Maximum length of a dripline or tape row at an inlet pressure
    Rows(RowsArgs),
    /// Run times, frequency and schedule by month
    Times(TimesArgs),
    /// Parts list, cut list and trenches
    Parts(PartsArgs),
    /// Quote from a price book
    Quote(QuoteArgs),
    /// Crew packet as PDF
    Packet(PacketArgs),
    /// A year of a simulated weather station, as CSV that `times --climate` reads
    Weather {
        /// A station of the built-in table; none: print their names
        station: Option<String>,
        #[arg(long, default_value_t = 2026)]
        year: i32,
        /// Another seed, another year's weather
        #[arg(long, default_value_t = 1)]
        seed: u64,
    },
    /// Run a simulated controller with its flow sensor (docs/CONTROLLER.md)
    Controller {
        /// Address to listen on
        #[arg(long, default_value = "127.0.0.1:8090")]
        listen: SocketAddr,
    },
    /// Read a foreign file within bounds: the server's helper, a process of its own
    #[command(hide = true)]
    Reader {
        /// drawing, picture, job or prices
        kind: String,
        /// What the file was called
        #[arg(long, default_value = "")]
        name: String,
        /// Page of a PDF, from 1
        #[arg(long, default_value_t = 1)]
        page: usize,
    },
    /// Print the JSON Schema of job files
    Schema,
    /// Load the demo jobs into the database, once
    Demo,
    /// Print the server configuration as a commented file for `serve --config`
    Config {
        /// Read this file first
        #[arg(long, value_name = "FILE")]
        config: Option<PathBuf>,
    },
    /// Write a backup file while the server runs
    Backup {
        /// The file; it must not exist yet
        file: PathBuf,
        /// Only what belongs to this company, by its number
        #[arg(long)]
        company: Option<i64>,
    },
    /// Restore a backup into an empty database
    Restore {
        /// The file
        file: PathBuf,
    },
    /// Start the web server
    Serve {
        /// How it is run (see `fenlo config`)
        #[arg(long, value_name = "FILE")]
        config: Option<PathBuf>,
        /// Address to listen on; else as the configuration says
        #[arg(long)]
        listen: Option<SocketAddr>,
        /// Load the demo jobs if they never were
        #[arg(long)]
        with_demo: bool,
        /// Address of a controller that programs may be tested on, e.g. 127.0.0.1:8090
        #[arg(long)]
        controller: Option<SocketAddr>,
    },
}

#[derive(Clone, Copy, ValueEnum)]
pub enum Format {
    Text,
    Json,
}

#[derive(clap::Args)]
pub struct ProposeArgs {
    /// Job file, or - for standard input
    pub file: PathBuf,
    /// Area id (repeatable); default: all areas
    #[arg(long)]
    pub area: Vec<String>,
    /// spray, rotator-short, rotator, rotor-short, rotor-mid, rotor-large, dripline, tape, emitter; else what
    /// costs least over ten years on its ground
    #[arg(long)]
    pub kind: Option<String>,
    /// Prices to compare by, as CSV or XLSX; else planning prices
    #[arg(long, value_name = "BOOK")]
    pub prices: Option<PathBuf>,
    /// Steps to propose, always run in this order
    #[arg(long, value_enum, value_delimiter = ',', default_value = "layout,split,route,size,regulate")]
    pub steps: Vec<Step>,
    /// Write the resulting job file
    #[arg(short, long, value_name = "FILE")]
    pub out: Option<PathBuf>,
    /// Print as JSON, with the job that comes out
    #[arg(long)]
    pub json: bool,
}

/// Quantities are written with their unit: 25psi, 0.6gph, 12in, 0.560in, 2.3L/h, 30cm.
#[derive(clap::Args)]
pub struct RowsArgs {
    /// Pressure where the row begins
    #[arg(long)]
    pub inlet: String,
    /// Flow of one emitter
    #[arg(long)]
    pub emitter: String,
    /// Emitter spacing; the first emitter is one spacing from the start
    #[arg(long)]
    pub every: String,
    /// Inside diameter of the tube
    #[arg(long, default_value = "0.560in")]
    pub inside: String,
    /// Hazen-Williams C of the tube
    #[arg(long, default_value_t = 140.0)]
    pub c: f64,
    /// Least pressure at any emitter
    #[arg(long, default_value = "8.5psi")]
    pub least: String,
    /// Greatest pressure at any emitter, downhill
    #[arg(long, default_value = "60psi")]
    pub most: String,
    /// Rise over length, percent; positive uphill
    #[arg(long, default_value = "0", allow_hyphen_values = true)]
    pub slope: String,
    /// Flow exponent, referenced to --at; 0 for pressure-compensating
    #[arg(long, default_value_t = 0.0)]
    pub exponent: f64,
    /// Pressure of the emitter's flow, where it does not compensate
    #[arg(long, default_value = "25psi")]
    pub at: String,
    /// Print in metric units
    #[arg(long)]
    pub metric: bool,
    /// Print as JSON
    #[arg(long)]
    pub json: bool,
}

#[derive(clap::Args)]
pub struct TimesArgs {
    /// Job file, or - for standard input
    pub file: PathBuf,
    /// Month, 1 to 12; default: peak month
    #[arg(long)]
    pub month: Option<u8>,
    /// Year of the days; else this one
    #[arg(long)]
    pub year: Option<i32>,
    /// Evaporation and rain from CSV, in place of the job's own
    #[arg(long, value_name = "FILE")]
    pub climate: Option<PathBuf>,
    /// Degrees, north positive: for a file that has temperatures
    #[arg(long, allow_hyphen_values = true)]
    pub latitude: Option<f64>,
    /// Print as JSON
    #[arg(long, conflicts_with_all = ["csv", "ics"])]
    pub json: bool,
    /// Print the year's controller sheet as CSV
    #[arg(long, conflicts_with = "ics")]
    pub csv: bool,
    /// Print the season as an iCalendar file
    #[arg(long)]
    pub ics: bool,
}

#[derive(clap::Args)]
pub struct PartsArgs {
    /// Job file, or - for standard input
    pub file: PathBuf,
    /// Prices, as CSV or XLSX: the cheapest baskets, and coils chosen by price
    #[arg(long, value_name = "BOOK")]
    pub prices: Option<PathBuf>,
    /// Print as JSON
    #[arg(long, conflicts_with_all = ["csv", "xlsx"])]
    pub json: bool,
    /// Print as CSV
    #[arg(long, conflicts_with = "xlsx")]
    pub csv: bool,
    /// Write a workbook
    #[arg(long, value_name = "FILE")]
    pub xlsx: Option<PathBuf>,
}

#[derive(clap::Args)]
pub struct QuoteArgs {
    /// Job file, or - for standard input
    pub file: PathBuf,
    /// Prices, as CSV or XLSX
    #[arg(long, value_name = "BOOK")]
    pub prices: PathBuf,
    /// The day of the quote, 2026-07-03; else today
    #[arg(long)]
    pub on: Option<String>,
    /// By zone rather than by work
    #[arg(long)]
    pub by_zone: bool,
    /// Print as JSON
    #[arg(long, conflicts_with = "xlsx")]
    pub json: bool,
    /// Write a workbook whose sums are formulas
    #[arg(long, value_name = "FILE")]
    pub xlsx: Option<PathBuf>,
}

#[derive(clap::Args)]
pub struct PacketArgs {
    /// Job file, or - for standard input
    pub file: PathBuf,
    /// Language of the reader: en or es
    #[arg(long, default_value = "en")]
    pub lang: String,
    /// letter, a4, a3 or a1 (plan sheets; text stays on a4); else as the job's units have it
    #[arg(long)]
    pub paper: Option<String>,
    /// Only the plan sheets and the valve table
    #[arg(long)]
    pub plan: bool,
    /// Output file
    #[arg(short, long, value_name = "FILE")]
    pub out: PathBuf,
}

/// A step of a proposal.
#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Step {
    /// Heads on areas
    Layout,
    /// Heads onto valves
    Split,
    /// Boxes, mains and laterals
    Route,
    /// Sizes of pipe at least cost
    Size,
    /// A regulator for every valve that wants one
    Regulate,
}

/// Quantities are written with their unit: 64psi, 4.3bar, 12ft, 3.5m.
#[derive(clap::Args)]
pub struct QuickArgs {
    /// Static pressure with nothing running
    #[arg(long = "static")]
    pub static_pressure: String,
    /// Pressure with a known flow running, e.g. 10gpm:55psi (may be repeated)
    #[arg(long)]
    pub dynamic: Vec<String>,
    /// Meter size
    #[arg(long)]
    pub meter: Option<String>,
    /// Service line: size, material, length, e.g. "1in copper-l 55ft"
    #[arg(long)]
    pub service: Option<String>,
    /// Backflow device of the catalogue, e.g. vacuum-breaker; none
    #[arg(long, default_value = "none")]
    pub backflow: String,
    /// Nozzle, e.g. spray-12, rotator-20, rotor-3
    #[arg(long)]
    pub head: String,
    /// Arc of every head, degrees
    #[arg(long, default_value_t = 360)]
    pub arc: u16,
    /// Heads on the valve
    #[arg(long)]
    pub count: u32,
    /// Between heads
    #[arg(long)]
    pub spacing: String,
    /// Lateral pipe, e.g. "class-200 3/4in"
    #[arg(long)]
    pub pipe: String,
    /// Pipe from the valve to the first head, or to where the rows are fed
    #[arg(long)]
    pub distance: String,
    /// Height of the highest head above the valve
    #[arg(long, default_value = "0ft", allow_hyphen_values = true)]
    pub rise: String,
    /// How the lateral reaches the heads: chain, middle or h
    #[arg(long, default_value = "chain")]
    pub arrangement: String,
    /// Solenoid valve of the catalogue
    #[arg(long, default_value = "valve-1in")]
    pub valve: String,
    /// none, valve:40psi, inline:30psi or body:30psi
    #[arg(long, default_value = "none")]
    pub regulate: String,
    /// Print and read in metric units
    #[arg(long)]
    pub metric: bool,
    /// The same, with pressures in bar
    #[arg(long)]
    pub bar: bool,
    /// Print as JSON
    #[arg(long)]
    pub json: bool,
    /// Write the network that was solved
    #[arg(long, value_name = "FILE")]
    pub network: Option<PathBuf>,
}
