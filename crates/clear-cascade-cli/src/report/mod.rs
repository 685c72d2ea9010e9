//! The report: pages with all their answers as one file to look at.
//!
//! What comes in: studies of pages, what they are opened with, and trials of them. What goes out: the text of an HTML file
//! that needs nothing else. All answers in it are the library's, as data (`data.rs`); the page as it is looked at goes into
//! a frame without scripts (`frame.rs`); the rest is a template, a style sheet and a script that decides nothing about CSS.

mod css;
mod data;
mod frame;
mod pool;

use std::io::Write as _;

use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use clear_cascade::{Study, Trial};
use flate2::{Compression, write::GzEncoder};
use maud::{DOCTYPE, PreEscaped, html};
use sha2::{Digest, Sha256};

use crate::web::Web;

pub(crate) use data::Data;

/// A page that goes into a report.
pub(crate) struct Subject {
    /// The page as it is named in commands.
    pub(crate) name: String,
    /// The page.
    pub(crate) study: Study,
    /// What its files come from.
    pub(crate) loader: Web,
    /// The page with changes, where some are tried.
    pub(crate) trial: Option<Trial>,
}

/// What a report says of itself, so that one is known again.
pub(crate) const GENERATOR: &str = "name=\"generator\" content=\"clear-cascade ";

/// How the report looks.
const STYLE: &str = include_str!("report.css");
/// What it does.
const SCRIPT: &str = include_str!("report.js");

/// Bytes in the format of RFC 1952.
fn packed(bytes: &[u8]) -> Vec<u8> {
    let mut packer = GzEncoder::new(Vec::new(), Compression::default());
    // A vector takes whatever it is given.
    let _ = packer.write_all(bytes);
    packer.finish().unwrap_or_default()
}

/// The text of a report of some pages, and by which rule not all is in it.
pub(crate) fn page(subjects: &[Subject]) -> (String, Vec<String>) {
    let data = Data::of(subjects);
    let cuts = data.cuts();
    let title = data.title();
    let json = serde_json::to_vec(&data).unwrap_or_default();
    let hash = STANDARD.encode(Sha256::digest(SCRIPT.as_bytes()));
    let policy = format!(
        "default-src 'none'; script-src 'sha256-{hash}'; style-src 'unsafe-inline' data:; img-src data:; font-src data:; \
         frame-src 'self'; base-uri 'none'; form-action 'none'"
    );
    let text = html! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(policy);
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="generator" content=(concat!("clear-cascade ", env!("CARGO_PKG_VERSION")));
                meta name="referrer" content="no-referrer";
                title { (title) }
                style { (PreEscaped(STYLE)) }
            }
            body {
                a.skip href="#main" { "To the answer" }
                header {
                    p.name { "Why it looks as it does" }
                    nav aria-label="Views" {
                        a #to-page href="#" { "Page" }
                        a #to-sheets href="#sheets" { "Sheets" }
                        a #to-site href="#site" { "At a glance" }
                    }
                    form.search role="search" {
                        label for="find" { "Find" }
                        input #find type="search" autocomplete="off" spellcheck="false"
                            placeholder="a selector, a class, words, or FILE:LINE" aria-describedby="found-count";
                        p #found-count.hidden role="status" {}
                        ul #found hidden {}
                    }
                }
                main #main tabindex="-1" {
                    noscript { p { "This report needs its script to show anything: it is in the file, and loads nothing." } }
                }
                footer {
                    p #made {}
                }
                // The data: JSON, packed as RFC 1952 has it, so that it fits into a letter.
                script #data type="application/gzip" { (STANDARD.encode(packed(&json))) }
                script { (PreEscaped(SCRIPT)) }
            }
        }
    }
    .into_string();
    (text, cuts)
}
