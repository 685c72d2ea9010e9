//! Places as people write them: `FILE:LINE:COLUMN`.

use std::borrow::Cow;
use std::fmt;
use std::str::FromStr;

use serde::{Deserialize, Deserializer, Serialize, Serializer};

/// A place in a file, as answers print it and questions take it: `css/site.css:31:3`, or without the column.
///
/// Places that answers give have a column. In JSON a place is its text.
///
/// ```
/// use clear_cascade::source::Place;
/// let place: Place = "css/site.css:31:3".parse()?;
/// assert_eq!((place.file.as_str(), place.line, place.column), ("css/site.css", 31, Some(3)));
/// assert_eq!(place.to_string(), "css/site.css:31:3");
/// # Ok::<(), clear_cascade::source::NoPlace>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Place {
    /// The path or URL of the text.
    pub file: String,
    /// The line, from 1.
    pub line: u32,
    /// The column in characters, from 1; nothing where the whole line is meant.
    pub column: Option<u32>,
}

/// A text is no place.
///
/// ```
/// use clear_cascade::source::Place;
/// let error = "site.css".parse::<Place>().unwrap_err();
/// assert_eq!(error.text, "site.css"); // No line.
/// ```
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("`{text}` is no place: write it as FILE:LINE or FILE:LINE:COLUMN, counted from 1")]
pub struct NoPlace {
    /// The text.
    pub text: String,
}

impl Place {
    /// A line of a file.
    #[must_use]
    pub fn line(file: impl Into<String>, line: u32) -> Self {
        Self { file: file.into(), line, column: None }
    }

    /// The same place with a column.
    ///
    /// ```
    /// use clear_cascade::source::Place;
    /// assert_eq!(Place::line("site.css", 3).with_column(7).to_string(), "site.css:3:7");
    /// ```
    #[must_use]
    pub fn with_column(self, column: u32) -> Self {
        Self { column: Some(column), ..self }
    }
}

impl fmt::Display for Place {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}:{}", self.file, self.line)?;
        self.column.map_or(Ok(()), |column| write!(f, ":{column}"))
    }
}

impl FromStr for Place {
    type Err = NoPlace;

    fn from_str(text: &str) -> Result<Self, NoPlace> {
        let number = |n: &str| {
            let digits = !n.is_empty() && n.bytes().all(|b| b.is_ascii_digit());
            n.parse::<u32>().ok().filter(|n| digits && *n > 0)
        };
        let split = |text: &str| {
            let (rest, last) = text.rsplit_once(':')?;
            Some((rest.to_owned(), number(last)?)).filter(|(rest, _)| !rest.is_empty())
        };
        let (rest, last) = split(text.trim()).ok_or_else(|| NoPlace { text: text.to_owned() })?;
        Ok(match split(&rest) {
            Some((file, line)) => Self { file, line, column: Some(last) },
            None => Self { file: rest, line: last, column: None },
        })
    }
}

impl Serialize for Place {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Place {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        Cow::<'de, str>::deserialize(deserializer)?.parse().map_err(serde::de::Error::custom)
    }
}

#[cfg(feature = "schema")]
impl schemars::JsonSchema for Place {
    fn schema_name() -> Cow<'static, str> {
        "Place".into()
    }

    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({
            "description": "A place as FILE:LINE:COLUMN, line and column from 1, the column in characters.",
            "type": "string",
            "pattern": "^[^\\u0000]+:[1-9][0-9]*$"
        })
    }
}

/// A place as three keys beside others, as in a contender.
pub(crate) mod keys {
    use super::{Deserialize, Deserializer, Place, Serialize, Serializer};

    /// The keys.
    #[derive(Serialize, Deserialize)]
    #[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
    pub(crate) struct Keys {
        /// The file it is in, a path that opens from the working directory.
        file: String,
        /// Its line there, from 1.
        line: u32,
        /// Its column there in characters, from 1.
        column: Option<u32>,
    }

    /// Writes the keys.
    pub(crate) fn serialize<S: Serializer>(place: &Place, serializer: S) -> Result<S::Ok, S::Error> {
        Keys { file: place.file.clone(), line: place.line, column: place.column }.serialize(serializer)
    }

    /// Reads the keys.
    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Place, D::Error> {
        let Keys { file, line, column } = Keys::deserialize(deserializer)?;
        Ok(Place { file, line, column })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_read_back_as_they_are_written() {
        for (text, file, line, column) in [
            ("a.css:3", "a.css", 3, None),
            ("a.css:3:14", "a.css", 3, Some(14)),
            ("C:/site/a.css:3", "C:/site/a.css", 3, None),
            ("http://h.test:80/a.css:3:1", "http://h.test:80/a.css", 3, Some(1)),
            ("odd:2:name:7:9", "odd:2:name", 7, Some(9)),
        ] {
            let place: Place = text.parse().unwrap();
            assert_eq!((&*place.file, place.line, place.column), (file, line, column), "{text}");
            assert_eq!(place.to_string(), text);
            let json = serde_json::to_string(&place).unwrap();
            assert_eq!(serde_json::from_str::<Place>(&json).unwrap(), place);
        }
        for text in ["", "a.css", ":3", "a.css:0", "a.css:x", "a.css:+3", "a.css:99999999999", "h1:hover"] {
            assert!(text.parse::<Place>().is_err(), "{text}");
        }
    }
}
