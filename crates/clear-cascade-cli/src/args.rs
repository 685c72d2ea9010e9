//! The command line as plain data.

// Doc comments here are help texts: `[:COL]` is no link, and one at a struct of arguments would replace that of the
// command, which stands at `Command`.
#![allow(rustdoc::broken_intra_doc_links, clippy::missing_docs_in_private_items)]

use std::ffi::OsString;
use std::path::PathBuf;

use clap::{Args, CommandFactory, FromArgMatches, Parser, Subcommand, ValueEnum};
use clear_cascade::viewing::{PREFERENCES, Viewing};

/// Tells why an HTML element looks as it does: who wins, who lost and why, and how the value comes about.
#[derive(Debug, Parser)]
#[command(name = "clear-cascade", version, disable_help_subcommand = true, arg_required_else_help = true)]
pub(crate) struct Cli {
    /// What to do.
    #[command(subcommand)]
    pub(crate) command: Command,
    /// Ask again whenever a file of the page changes, and mark what is new in the answer
    #[arg(long, global = true)]
    pub(crate) watch: bool,
}

/// What to do.
#[derive(Debug, Subcommand)]
// A command's options are made when it is asked for: to make all of them takes longer than to start the program.
#[command(defer = true)]
pub(crate) enum Command {
    /// Why a property has its value on an element: the contest, stage by stage, or whom it is inherited from
    Why(Why),
    /// The computed values of an element, or of all elements of a page
    Values(Values),
    /// Why a rule does not take an element, or takes it and does not show
    WhyNot(WhyNot),
    /// What a selector hits, how many and where, and what it weighs
    Reach(Reach),
    /// Selectors that take an element, and those like it, and not others
    Aim(Aim),
    /// What a change would do, without writing a file: every value it changes, before and after
    Try(Box<Try>),
    /// What looks different: two elements, one element seen in two ways, two pages, or two versions of a site
    Compare(Box<Compare>),
    /// What is wrong with pages or a whole site: what is misspelt, missing, dropped, or never does anything
    Check(Box<Check>),
    /// Write a page in which to see why anything on these pages looks as it does
    Report(Box<Report>),
    /// Write the sample site of an observatory and ask it a few questions
    Demo(Demo),
    /// Write manual pages and completions for shells into a folder
    Manual(Manual),
}

// A page, and what it is seen with.
#[derive(Debug, Args)]
pub(crate) struct Page {
    /// The HTML page: a file, a URL, a page saved as .mhtml or .har, or `-` for standard input
    pub(crate) page: PathBuf,
    /// Ask the same about another page too; may be repeated
    #[arg(long, value_name = "PAGE")]
    pub(crate) also: Vec<PathBuf>,
    /// What it is seen with.
    #[command(flatten)]
    pub(crate) seen: Seen,
}

// What pages are seen with.
#[derive(Clone, Debug, Args)]
pub(crate) struct Seen {
    /// The folder that URLs with a leading `/` start at; no file outside it is read [default: the working directory if
    /// the page is below it, else the page's folder]
    #[arg(long, value_name = "DIR")]
    pub(crate) root: Option<PathBuf>,
    /// Size of the viewport in px [default: 1280x800, or that of the browser of --browser]
    #[arg(long, value_name = "WxH", value_parser = viewport)]
    pub(crate) viewport: Option<(f64, f64)>,
    /// What the page is seen on
    #[arg(long, value_enum, default_value_t = Medium::Screen)]
    pub(crate) media: Medium,
    /// A preference of the user, such as `color-scheme=dark`; may be repeated
    #[arg(long, value_name = "FEATURE=VALUE", value_parser = preference)]
    pub(crate) prefer: Vec<(String, String)>,
    /// A stylesheet of the user, after the browser defaults and before the page's own; may be repeated
    #[arg(long, value_name = "FILE")]
    pub(crate) user_sheet: Vec<PathBuf>,
    /// The title of the set of alternate stylesheets to use
    #[arg(long, value_name = "TITLE")]
    pub(crate) alternate: Option<String>,
    /// Of a page that is no URL, fetch stylesheets that are on other sites too, from public addresses only
    #[arg(long)]
    pub(crate) fetch: bool,
    /// Fetch from private addresses too; this machine is asked anyway where the page is on it
    #[arg(long)]
    pub(crate) private_addresses: bool,
    /// Keep what is fetched, or what a saved page holds, in a folder, which is then a page that can be asked about
    #[arg(long, value_name = "DIR")]
    pub(crate) save: Option<PathBuf>,
    /// Where a page from standard input would be: a folder, or a URL [default: the working directory]
    #[arg(long, value_name = "DIR|URL")]
    pub(crate) base: Option<String>,
    /// Take the page as it stands in a browser after its scripts, through the WebDriver at this URL; with the URL of a session,
    /// …/session/ID, PAGE may be `-`: what it shows now
    #[arg(long, value_name = "URL", conflicts_with = "base")]
    pub(crate) browser: Option<String>,
    /// Take an element, and all around it, as under the pointer; may be repeated, like the states below
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) hover: Vec<String>,
    /// Take an element as being pressed
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) active: Vec<String>,
    /// Take an element as having the focus
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) focus: Vec<String>,
    /// Take a link as visited
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) visited: Vec<String>,
    /// Take an element as the one that the URL's fragment names
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) target: Vec<String>,
}

impl Seen {
    /// The size of the viewport.
    pub(crate) fn size(&self) -> (f64, f64) {
        let usual = Viewing::default();
        self.viewport.unwrap_or((usual.width, usual.height))
    }
}

/// What the arguments ask for.
///
/// # Errors
///
/// What is wrong with them, or the help or version they ask for.
pub(crate) fn read(args: impl IntoIterator<Item = OsString>) -> Result<Cli, clap::Error> {
    let mut all = Cli::command();
    let args = properties_last(args, &all);
    let mut matches = all.try_get_matches_from_mut(args)?;
    Cli::from_arg_matches_mut(&mut matches).map_err(|error| error.format(&mut all))
}

/// The arguments with properties that start with a hyphen behind `--`, where it makes no options of them: of `why`, what
/// looks like an option and is none, nor a slip of one letter from it.
fn properties_last(args: impl IntoIterator<Item = OsString>, all: &clap::Command) -> Vec<OsString> {
    let mut args: Vec<OsString> = args.into_iter().collect();
    if args.get(1).is_none_or(|a| a != "why") {
        return args;
    }
    let why = Why::augment_args(clap::Command::new("why"));
    let options: Vec<&str> =
        why.get_arguments().chain(all.get_arguments()).filter_map(|a| a.get_long()).chain(["help"]).collect();
    let is_property = |arg: &OsString| {
        let arg = arg.to_str().unwrap_or_default();
        let Some(name) = arg.strip_prefix("--").filter(|n| !n.is_empty()) else {
            // `-webkit-…`: there are no short options of two letters.
            return arg.len() > 2 && arg.starts_with('-') && arg.as_bytes()[1].is_ascii_alphabetic();
        };
        let name = name.split('=').next().unwrap_or(name);
        options.iter().all(|o| strsim::damerau_levenshtein(o, name) > 1)
    };
    let end = args.iter().position(|a| a == "--").unwrap_or(args.len());
    let behind = args.split_off(end);
    let (properties, mut args): (Vec<_>, Vec<_>) = args.into_iter().partition(is_property);
    if !properties.is_empty() || !behind.is_empty() {
        args.push("--".into());
    }
    args.extend(properties);
    args.extend(behind.into_iter().skip(1));
    args
}

// A browser that is asked about the answer.
#[derive(Debug, Args)]
pub(crate) struct Witness {
    /// Ask a browser whether it computes the same, through the WebDriver at this URL, such as http://127.0.0.1:9515
    #[arg(long, value_name = "URL", conflicts_with_all = ["format", "also"])]
    pub(crate) witness: Option<String>,
    /// End with status 1 where it does not
    #[arg(long, requires = "witness")]
    pub(crate) fail_on_difference: bool,
}

#[derive(Debug, Args)]
pub(crate) struct Why {
    /// What the page is, and what it is seen with.
    #[command(flatten)]
    pub(crate) page: Page,
    /// The element: a selector, text of it in quotes, FILE:LINE[:COL] in the page, or @N; with a pseudo-element at its end or not
    pub(crate) element: String,
    /// The properties; a shorthand stands for its longhands
    #[arg(required = true)]
    pub(crate) properties: Vec<String>,
    /// Only the answer, without the contest and the steps
    #[arg(long, conflicts_with = "format")]
    pub(crate) short: bool,
    /// Answer for each element that ELEMENT names, those with the same answer together
    #[arg(long)]
    pub(crate) each: bool,
    /// Show all remarks, also those that may not matter for the answer
    #[arg(long)]
    pub(crate) notes: bool,
    /// Who else is asked.
    #[command(flatten)]
    pub(crate) witness: Witness,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct Values {
    /// What the page is, and what it is seen with.
    #[command(flatten)]
    pub(crate) page: Page,
    /// The element: a selector, text of it in quotes, FILE:LINE[:COL] in the page, or @N [default: all elements]
    pub(crate) element: Option<String>,
    /// Show every longhand, also those that are as in the browser's defaults or that nobody set
    #[arg(long)]
    pub(crate) all: bool,
    /// Show only what a stylesheet changes: `author` for all of the page's, or one file
    #[arg(long, value_name = "FILE", conflicts_with = "all")]
    pub(crate) changed_by: Option<String>,
    /// Who else is asked.
    #[command(flatten)]
    pub(crate) witness: Witness,
    /// How to print the answer; `ndjson` prints a line of JSON for each element
    #[arg(long, value_enum, default_value_t = LineFormat::Text)]
    pub(crate) format: LineFormat,
}

#[derive(Debug, Args)]
pub(crate) struct WhyNot {
    /// What the page is, and what it is seen with.
    #[command(flatten)]
    pub(crate) page: Page,
    /// The element: a selector, text of it in quotes, FILE:LINE[:COL] in the page, or @N
    pub(crate) element: String,
    /// The rule: a selector, or FILE:LINE[:COL] of a rule or declaration in a stylesheet
    pub(crate) rule: String,
    /// Answer for each element that ELEMENT names, those with the same answer together
    #[arg(long)]
    pub(crate) each: bool,
    /// Show all remarks, also those that may not matter for the answer
    #[arg(long)]
    pub(crate) notes: bool,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct Reach {
    /// The HTML pages, and last the selector, or FILE:LINE of a rule in a stylesheet
    #[arg(required = true, num_args = 1.., value_names = ["PAGE", "SELECTOR"])]
    pub(crate) words: Vec<String>,
    /// What the pages are seen with.
    #[command(flatten)]
    pub(crate) seen: Seen,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct Aim {
    /// What the page is, and what it is seen with.
    #[command(flatten)]
    pub(crate) page: Page,
    /// The element: a selector, text of it in quotes, FILE:LINE[:COL] in the page, or @N
    pub(crate) element: String,
    /// Elements to be taken as well; may be repeated
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) like: Vec<String>,
    /// Elements not to be taken; may be repeated
    #[arg(long, value_name = "ELEMENT")]
    pub(crate) not: Vec<String>,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct Try {
    /// The HTML pages
    #[arg(required = true, value_name = "PAGE")]
    pub(crate) pages: Vec<PathBuf>,
    /// What the pages are seen with.
    #[command(flatten)]
    pub(crate) seen: Seen,
    /// What is tried.
    #[command(flatten)]
    pub(crate) changes: Changes,
    /// Print the changes of the files as a unified diff instead, for `git apply`
    #[arg(long, conflicts_with = "format")]
    pub(crate) patch: bool,
    /// Ask a browser whether it computes the same, through the WebDriver at this URL, such as http://127.0.0.1:9515
    #[arg(long, value_name = "URL", conflicts_with_all = ["format", "patch"])]
    pub(crate) witness: Option<String>,
    /// End with status 1 where it does not
    #[arg(long, requires = "witness")]
    pub(crate) fail_on_difference: bool,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

// Changes that are tried.
#[derive(Debug, Args)]
pub(crate) struct Changes {
    /// Add a rule, such as '.menu a { color: gold }', after all others; may be repeated, like all changes below
    #[arg(long, allow_hyphen_values = true, value_name = "RULE")]
    pub(crate) set: Vec<String>,
    /// Where rules of --set go instead: the end of a file, or before the rule at a line of it
    #[arg(long = "in", value_name = "FILE[:LINE]")]
    pub(crate) into: Option<String>,
    /// Add declarations to the style attribute of elements
    #[arg(long, allow_hyphen_values = true, num_args = 2, value_names = ["ELEMENT", "DECLARATIONS"], action = clap::ArgAction::Append)]
    pub(crate) on: Vec<String>,
    /// Put a class on elements
    #[arg(long, value_name = "ELEMENT=CLASS")]
    pub(crate) add_class: Vec<String>,
    /// Take a class off elements
    #[arg(long, value_name = "ELEMENT=CLASS")]
    pub(crate) drop_class: Vec<String>,
    /// Set all classes of elements, in their order
    #[arg(long, allow_hyphen_values = true, num_args = 2, value_names = ["ELEMENT", "CLASSES"], action = clap::ArgAction::Append)]
    pub(crate) classes: Vec<String>,
    /// Set an attribute of elements
    #[arg(long, allow_hyphen_values = true, num_args = 2, value_names = ["ELEMENT", "NAME=VALUE"], action = clap::ArgAction::Append)]
    pub(crate) attribute: Vec<String>,
    /// Take an attribute off elements
    #[arg(long, allow_hyphen_values = true, num_args = 2, value_names = ["ELEMENT", "NAME"], action = clap::ArgAction::Append)]
    pub(crate) drop_attribute: Vec<String>,
    /// Put another text into elements that hold text alone
    #[arg(long, allow_hyphen_values = true, num_args = 2, value_names = ["ELEMENT", "TEXT"], action = clap::ArgAction::Append)]
    pub(crate) text: Vec<String>,
    /// Give the declaration at a place another value
    #[arg(long, allow_hyphen_values = true, value_name = "FILE:LINE[:COL]=VALUE")]
    pub(crate) value: Vec<String>,
    /// Cut a declaration out, or the rule whose selectors are there
    #[arg(long, value_name = "FILE:LINE[:COL]")]
    pub(crate) cut: Vec<String>,
    /// Leave a stylesheet out; `author` stands for all styles of the page, `defaults` for those of the browser
    #[arg(long, value_name = "FILE")]
    pub(crate) without: Vec<String>,
    /// Use another stylesheet in the place of one
    #[arg(long, value_name = "FILE=OTHER")]
    pub(crate) replace: Vec<String>,
    /// Move a rule before the rule at another line, or a stylesheet before another
    #[arg(long = "move", value_name = "FILE[:LINE]=FILE[:LINE]")]
    pub(crate) moves: Vec<String>,
}

impl Changes {
    /// Whether nothing is asked for.
    pub(crate) fn is_none(&self) -> bool {
        let pairs = [&self.on, &self.classes, &self.attribute, &self.drop_attribute, &self.text];
        let single = [
            &self.set,
            &self.add_class,
            &self.drop_class,
            &self.value,
            &self.cut,
            &self.without,
            &self.replace,
            &self.moves,
        ];
        pairs.into_iter().chain(single).all(Vec::is_empty)
    }
}

#[derive(Debug, Args)]
pub(crate) struct Report {
    /// The HTML pages
    #[arg(required = true, value_name = "PAGE")]
    pub(crate) pages: Vec<PathBuf>,
    /// The file that is written; one that is there is written over only where it is a report
    #[arg(short, long, value_name = "FILE", default_value = "report.html")]
    pub(crate) output: PathBuf,
    /// Open the report in the browser of this machine
    #[arg(long)]
    pub(crate) open: bool,
    /// What the pages are seen with.
    #[command(flatten)]
    pub(crate) seen: Seen,
    /// What is tried: the report shows before and after.
    #[command(flatten)]
    pub(crate) changes: Changes,
}

#[derive(Debug, Args)]
pub(crate) struct Check {
    /// HTML pages, and folders with pages
    #[arg(value_name = "PATH", required_unless_present_any = ["pages_from", "merge"])]
    pub(crate) paths: Vec<PathBuf>,
    /// Tell what is only to think about too
    #[arg(long)]
    pub(crate) advice: bool,
    /// Show the lines around each finding
    #[arg(long)]
    pub(crate) show: bool,
    /// How it is printed: `lines` is a line of JSON for each finding, `sarif` a log in SARIF 2.1.0
    #[arg(long, value_enum, default_value_t = CheckFormat::Text)]
    pub(crate) format: CheckFormat,
    /// Exit with status 1 where something of this level or a worse one is found
    #[arg(long, value_name = "LEVEL", value_enum)]
    pub(crate) fail_on: Option<FailOn>,
    /// Print the certain fixes as a patch, each of them tried first; of all findings, or of one by its code and place
    #[arg(long, value_name = "CODE@FILE:LINE", num_args = 0..=1, default_missing_value = "", require_equals = true)]
    pub(crate) patch: Option<String>,
    /// A file with findings that are accepted: lines `CODE FILE[:LINE] reason`
    #[arg(long, value_name = "FILE")]
    pub(crate) accept: Option<PathBuf>,
    /// What an earlier `--format lines` printed: tell only what came and what went
    #[arg(long, value_name = "FILE")]
    pub(crate) since: Option<PathBuf>,
    /// A file with paths of pages, a line each; `-` for standard input
    #[arg(long, value_name = "FILE")]
    pub(crate) pages_from: Option<PathBuf>,
    /// Print the facts of each page as one line of JSON, to be put together later with --merge
    #[arg(long, conflicts_with_all = ["format", "patch", "since", "show"])]
    pub(crate) facts: bool,
    /// Tell the findings of the whole from files with such lines; `-` for standard input; may be repeated
    #[arg(long, value_name = "FILE", conflicts_with_all = ["paths", "pages_from", "patch"])]
    pub(crate) merge: Vec<PathBuf>,
    /// What the pages are seen with.
    #[command(flatten)]
    pub(crate) seen: Seen,
}

/// How findings are printed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CheckFormat {
    /// For people.
    Text,
    /// Lines of JSON.
    Lines,
    /// A SARIF log.
    Sarif,
}

/// From which level on a check fails.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FailOn {
    /// What is not what anybody meant.
    Wrong,
    /// What does nothing, too.
    Dead,
    /// All.
    Advice,
}

#[derive(Debug, Args)]
pub(crate) struct Compare {
    /// A page, or two pages or folders of pages; then one element, or two: selectors, FILE:LINE[:COL] or @N
    #[arg(required = true, num_args = 1..=4, value_names = ["PAGE", "ELEMENT"])]
    pub(crate) words: Vec<String>,
    /// What the left side is seen with, and the right one where nothing else is said.
    #[command(flatten)]
    pub(crate) seen: Seen,
    /// Size of the viewport on the right side
    #[arg(long, value_name = "WxH", value_parser = viewport)]
    pub(crate) other_viewport: Option<(f64, f64)>,
    /// What the right side is seen on
    #[arg(long, value_enum)]
    pub(crate) other_media: Option<Medium>,
    /// A preference of the user on the right side; may be repeated
    #[arg(long, value_name = "FEATURE=VALUE", value_parser = preference)]
    pub(crate) other_prefer: Vec<(String, String)>,
    /// A state on the right side, such as hover=ELEMENT; may be repeated
    #[arg(long, value_name = "STATE=ELEMENT", value_parser = state)]
    pub(crate) other_state: Vec<(String, String)>,
    /// A stylesheet left out on the right side; `author` stands for all styles of the page, `defaults` for those of the
    /// browser
    #[arg(long, value_name = "FILE")]
    pub(crate) other_without: Vec<String>,
    /// Show all that differs between two elements, not only what shows most
    #[arg(long)]
    pub(crate) all: bool,
    /// End with status 1 where something differs
    #[arg(long)]
    pub(crate) fail_on_difference: bool,
    /// How to print the answer
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub(crate) format: Format,
}

#[derive(Debug, Args)]
pub(crate) struct Demo {
    /// Where to write the sample site [default: a fresh folder below the working directory]
    pub(crate) folder: Option<PathBuf>,
}

#[derive(Debug, Args)]
pub(crate) struct Manual {
    /// The folder
    pub(crate) folder: PathBuf,
}

/// How an answer is printed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Format {
    /// For people.
    Text,
    /// One JSON document.
    Json,
}

/// How values are printed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LineFormat {
    /// For people.
    Text,
    /// One JSON object a line, one line an element.
    Ndjson,
}

/// What a page is seen on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum Medium {
    /// A screen.
    Screen,
    /// Paper.
    Print,
}

/// Reads `1280x800`.
fn viewport(text: &str) -> Result<(f64, f64), String> {
    let size = |t: &str| t.parse::<f64>().ok().filter(|n| n.is_finite() && (1.0..=100_000.0).contains(n));
    let (w, h) = text.split_once('x').ok_or("write a width and a height, such as 1280x800")?;
    size(w).zip(size(h)).ok_or_else(|| "width and height are numbers of px from 1 to 100000".to_owned())
}

/// Reads `hover=ELEMENT`.
fn state(text: &str) -> Result<(String, String), String> {
    let (state, element) = text.split_once('=').ok_or("write a state and an element, such as hover=a")?;
    let known = ["hover", "active", "focus", "visited", "target"];
    if known.contains(&state) {
        Ok((state.to_owned(), element.to_owned()))
    } else {
        Err(format!("there is no state `{state}`; there are {}", known.join(", ")))
    }
}

/// Reads `color-scheme=dark`.
fn preference(text: &str) -> Result<(String, String), String> {
    let (feature, value) = text.split_once('=').ok_or("write a feature and a value, such as color-scheme=dark")?;
    let feature = feature.strip_prefix("prefers-").unwrap_or(feature);
    let known = PREFERENCES;
    match known.iter().find(|(f, _)| *f == feature) {
        Some((_, values)) if values.contains(&value) => Ok((feature.to_owned(), value.to_owned())),
        Some((_, values)) => Err(format!("{feature} is one of {}", values.join(", "))),
        None => Err(format!(
            "there is no preference `{feature}`; there are {}",
            known.iter().map(|(f, _)| *f).collect::<Vec<_>>().join(", ")
        )),
    }
}
