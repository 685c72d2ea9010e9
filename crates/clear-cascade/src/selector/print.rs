//! Selectors as text that reads back as the same selector (CSSOM 1, §6.7.1 "Serializing Selectors").

use std::fmt::{self, Display, Formatter};

use super::{
    AttributeOperator, AttributeTest, Combinator, NamespaceTest, Nth, PseudoClass, Selector, SelectorList, Simple,
};
use crate::syntax::{serialize_identifier, serialize_string};

impl Display for SelectorList {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        for (i, selector) in self.selectors.iter().enumerate() {
            write!(f, "{}{selector}", if i > 0 { ", " } else { "" })?;
        }
        Ok(())
    }
}

impl Display for Selector {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        for (i, compound) in self.compounds.iter().enumerate() {
            match (i, compound.combinator) {
                (0, Combinator::Descendant) => {}
                (_, Combinator::Descendant) => f.write_str(" ")?,
                (_, combinator) => write!(f, "{}{combinator} ", if i > 0 { " " } else { "" })?,
            }
            compound.parts.iter().try_for_each(|p| p.simple.fmt(f))?;
        }
        Ok(())
    }
}

impl Display for Combinator {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Descendant => " ",
            Self::Child => ">",
            Self::NextSibling => "+",
            Self::SubsequentSibling => "~",
        })
    }
}

impl Display for Simple {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        match self {
            Self::Universal(namespace) => write!(f, "{}*", prefix(namespace)),
            Self::Type(namespace, name, _) => write!(f, "{}{}", prefix(namespace), serialize_identifier(name)),
            Self::Id(name) => write!(f, "#{}", serialize_identifier(name)),
            Self::Class(name) => write!(f, ".{}", serialize_identifier(name)),
            Self::Attribute(test) => test.fmt(f),
            Self::PseudoClass(pseudo) => pseudo.fmt(f),
            Self::PseudoElement(pseudo) => pseudo.fmt(f),
            Self::Nesting(_) => f.write_str("&"),
        }
    }
}

/// The prefix for no namespace at all; others are named in their sheet alone.
fn prefix(namespace: &NamespaceTest) -> &'static str {
    match namespace {
        NamespaceTest::Is(url) if url.is_empty() => "|",
        _ => "",
    }
}

impl Display for AttributeTest {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let any = if self.namespace == NamespaceTest::Any { "*|" } else { "" };
        write!(f, "[{any}{}", serialize_identifier(&self.name))?;
        if let Some((operator, value)) = &self.test {
            let operator = match operator {
                AttributeOperator::Equals => "=",
                AttributeOperator::Word => "~=",
                AttributeOperator::Dash => "|=",
                AttributeOperator::Starts => "^=",
                AttributeOperator::Ends => "$=",
                AttributeOperator::Contains => "*=",
            };
            write!(f, "{operator}{}", serialize_string(value))?;
        }
        f.write_str(match self.case {
            Some(true) => " i]",
            Some(false) => " s]",
            None => "]",
        })
    }
}

impl Display for Nth {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        match (self.a, self.b) {
            (0, b) => write!(f, "{b}"),
            (a, 0) => write!(f, "{a}n"),
            (a, b) => write!(f, "{a}n{b:+}"),
        }
    }
}

impl Display for PseudoClass {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let last = |end: &bool| if *end { "last-" } else { "" };
        match self {
            Self::Is(list, nothing) => write!(f, ":{}({list})", if *nothing { "where" } else { "is" }),
            Self::Any(list) => write!(f, ":-webkit-any({list})"),
            Self::Not(list) => write!(f, ":not({list})"),
            Self::Has(list) => write!(f, ":has({list})"),
            Self::NthChild(nth, end, None) => write!(f, ":nth-{}child({nth})", last(end)),
            Self::NthChild(nth, end, Some(of)) => write!(f, ":nth-{}child({nth} of {of})", last(end)),
            Self::NthOfType(nth, end) => write!(f, ":nth-{}of-type({nth})", last(end)),
            Self::OnlyChild => f.write_str(":only-child"),
            Self::OnlyOfType => f.write_str(":only-of-type"),
            Self::Root => f.write_str(":root"),
            Self::Empty => f.write_str(":empty"),
            Self::Scope => f.write_str(":scope"),
            Self::Lang(ranges) => {
                let ranges: Vec<String> = ranges.iter().map(|r| serialize_string(r)).collect();
                write!(f, ":lang({})", ranges.join(", "))
            }
            Self::Dir(Some(true)) => f.write_str(":dir(rtl)"),
            Self::Dir(Some(false)) => f.write_str(":dir(ltr)"),
            Self::Dir(None) => f.write_str(":dir(other)"),
            Self::HostContext(list) => write!(f, ":host-context({list})"),
            Self::Host(None) => f.write_str(":host"),
            Self::Host(Some(list)) => write!(f, ":host({list})"),
            Self::State(state) => write!(f, ":{}", state.name()),
            Self::Heading(levels) if levels.is_empty() => f.write_str(":heading"),
            Self::Heading(levels) => {
                let levels: Vec<String> = levels.iter().map(i32::to_string).collect();
                write!(f, ":heading({})", levels.join(", "))
            }
            Self::Never(name) => write!(f, ":{}", name.trim_start_matches(':')),
        }
    }
}
