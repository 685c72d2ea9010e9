//! Edits of elements: their attributes, classes and text. Several changes of one attribute come to one edit.

use std::collections::BTreeMap;

use super::Edits;
use crate::document::{ElementId, Namespace};
use crate::source::offset;
use crate::study::trial::TrialError;
use crate::syntax::{Kind, Tokens};

/// Elements whose content is no text that one reads.
const RAW: &[&str] = &["script", "style", "textarea", "title", "img", "input", "br", "hr", "meta", "link"];

impl Edits<'_> {
    /// `--on`: declarations at the end of `style` attributes.
    pub(super) fn attach(&mut self, elements: &[ElementId], declarations: &str) -> Result<(), TrialError> {
        let wanted = declarations.trim().trim_end_matches(';').trim();
        let tokens = Tokens::read(wanted);
        if let Some(what) = tokens.unfinished() {
            return Err(TrialError::Text(format!("`{declarations}` is no declaration: {what}")));
        }
        let broken = tokens.list.iter().any(|t| t.kind == Kind::AtKeyword);
        if wanted.is_empty() || !wanted.contains(':') || broken {
            return Err(TrialError::Text(format!("`{declarations}` is no declaration: write it as `property: value`")));
        }
        for id in elements {
            let written = self.attribute(*id, "style").unwrap_or_default();
            let written = written.trim_end();
            let joint = match written {
                "" => "",
                done if done.ends_with(';') => " ",
                _ => "; ",
            };
            self.set_attribute(*id, "style", Some(format!("{written}{joint}{}", escaped(wanted))))?;
        }
        Ok(())
    }

    /// An attribute as it is or would be written between double quotes.
    fn attribute(&self, id: ElementId, name: &str) -> Option<String> {
        if let Some(value) = self.attributes.get(&(id, name.to_owned())) {
            return value.clone();
        }
        let entry = self.study.page.document.node(id).attribute_entry(name)?;
        Some(self.study.sources.written(entry.value_span).replace('"', "&quot;"))
    }

    /// Sets an attribute of an element, or takes it off.
    pub(super) fn set_attribute(&mut self, id: ElementId, name: &str, value: Option<String>) -> Result<(), TrialError> {
        let document = &self.study.page.document;
        if document.node(id).tag.is_none() {
            return Err(TrialError::Fixed(format!("`{}`", document.label(id)), "its tag is not written in the page"));
        }
        self.attributes.insert((id, name.to_owned()), value);
        Ok(())
    }

    /// Makes edits of the attributes that were changed.
    pub(in crate::study) fn write_attributes(&mut self) -> Result<(), TrialError> {
        let mut fresh: BTreeMap<ElementId, String> = BTreeMap::new();
        for ((id, name), value) in std::mem::take(&mut self.attributes) {
            let element = self.study.page.document.node(id);
            match (element.attribute_entry(&name), value) {
                (None, None) => {}
                (None, Some(value)) => fresh.entry(id).or_default().push_str(&format!(" {name}=\"{value}\"")),
                (Some(entry), Some(value)) => {
                    let span = entry.value_span;
                    let bare = entry.name_span.end == span.start && span.start == span.end;
                    match self.text(span.source)[..span.start as usize].chars().last() {
                        _ if bare => self.edit(span.source, span.start..span.end, format!("=\"{value}\"")),
                        Some('"') => self.edit(span.source, span.start..span.end, value),
                        Some('\'') => {
                            let value = value.replace("&quot;", "\"").replace('\'', "&#39;");
                            self.edit(span.source, span.start..span.end, value);
                        }
                        _ => self.edit(span.source, span.start..span.end, format!("\"{value}\"")),
                    }
                }
                (Some(entry), None) => {
                    let (from, to) = (entry.name_span.start as usize, entry.value_span.end as usize);
                    let text = self.text(entry.value_span.source);
                    let start = text[..from].trim_end().len();
                    let quote = text[to..].chars().next().filter(|c| matches!(c, '"' | '\''));
                    let quote = quote.filter(|_| entry.value_span.start > entry.name_span.end);
                    let end = to + quote.map_or(0, char::len_utf8);
                    self.edit(entry.value_span.source, offset(start)..offset(end), "");
                }
            }
        }
        for (id, text) in fresh {
            let Some(tag) = self.study.page.document.node(id).tag else { continue };
            let at = after_tag_name(self.study.sources.written(tag), tag.start);
            self.edit(tag.source, at..at, text);
        }
        Ok(())
    }

    /// `--add-class`, `--drop-class`
    pub(super) fn class(&mut self, id: ElementId, class: &str, on: bool) -> Result<(), TrialError> {
        if class.is_empty() || class.contains(|c: char| c.is_ascii_whitespace()) {
            return Err(TrialError::Text(format!("`{class}` is no class: a class is one word without spaces")));
        }
        let written = self.attribute(id, "class");
        let classes: Vec<&str> = written.as_deref().unwrap_or_default().split_ascii_whitespace().collect();
        let class = escaped(class);
        if classes.contains(&&*class) == on {
            return Ok(());
        }
        let all: Vec<&str> = match on {
            true => classes.into_iter().chain([&*class]).collect(),
            false => classes.into_iter().filter(|c| *c != class).collect(),
        };
        let all = all.join(" ");
        self.set_attribute(id, "class", Some(all))
    }

    /// `--text`: another text in an element that holds text alone.
    pub(super) fn text_of(&mut self, id: ElementId, text: &str) -> Result<(), TrialError> {
        let document = &self.study.page.document;
        let element = document.node(id);
        let fixed = |why: &'static str| TrialError::Fixed(format!("the text of `{}`", document.label(id)), why);
        let tag = element.tag.ok_or_else(|| fixed("its tag is not written in the page"))?;
        if element.child_elements().next().is_some() {
            return Err(fixed("it holds other elements"));
        }
        let from = tag.end as usize;
        let page = self.text(tag.source);
        let raw = element.namespace == Namespace::Html && RAW.contains(&&*element.name);
        // Of HTML elements, only those without contents may end so.
        if raw || (element.namespace != Namespace::Html && page[..from].ends_with("/>")) {
            return Err(fixed("it holds no text"));
        }
        let to = from + page[from..].find('<').unwrap_or(page.len() - from);
        let written = text.replace('&', "&amp;").replace('<', "&lt;");
        self.edit(tag.source, offset(from)..offset(to), written);
        Ok(())
    }
}

/// A text as it stands in an attribute between double quotes.
pub(super) fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('"', "&quot;")
}

/// The byte after the name of a start tag.
fn after_tag_name(tag: &str, start: u32) -> u32 {
    let length = tag.find(|c: char| c.is_ascii_whitespace() || matches!(c, '>' | '/')).unwrap_or(tag.len());
    start + offset(length)
}
