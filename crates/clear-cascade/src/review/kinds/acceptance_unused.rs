//! An acceptance that meets no finding.

use super::{Example, Kind, Level};

/// An acceptance of something that is not found.
pub(in crate::review) const KIND: Kind = Kind {
    code: "acceptance-unused",
    level: Level::Dead,
    meaning: "A finding is accepted that is not there, or not any more.",
    matters: "It would hide the next one in its place.",
    accept: "Never: it can go.",
    example: Example {
        with: "<style>/* accept never-wins: for later */ p { top: 0 }</style><p>1",
        without: "<style>/* accept property-unknown: a program reads it */ p { colour: red }</style><p>1",
    },
    // It is found once all others are.
    find: |_| Vec::new(),
};
