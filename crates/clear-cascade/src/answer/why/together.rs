//! Several properties of one element at once, such as the longhands of a shorthand: grouped by what gives their values.

use serde::{Deserialize, Serialize};

use super::{Contest, Lineage, ValueFrom, Why, WhyError};
use crate::answer::derive::Said;
use crate::document::ElementId;
use crate::selector::PseudoElement;
use crate::source::Span;
use crate::study::Study;
use crate::style::Entry;

/// Why several properties of one element have their values.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let together = page.why_together(page.select("#one")?[0], None, &["border-top-color", "color"])?;
/// assert!(!together.sentence.is_empty());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Together {
    /// The answer in one plain sentence.
    pub sentence: String,
    /// The answers by what gives the values: declarations first, then inheritance, then initial values.
    pub groups: Vec<Group>,
}

/// Properties whose values have one cause: the same declaration, the same ancestor, or none.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let together = page.why_together(page.select("p")?[0], None, &["color"])?;
/// assert!(together.groups[0].cause.contains("`.lead`"));
/// assert_eq!(together.groups[0].members.len(), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Group {
    /// The cause in words: `set by …`, `inherited from …`, `their initial values: …`.
    pub cause: String,
    /// What is put in for `var()` and calls of custom functions in the declaration, for all of them.
    pub put_in: Vec<String>,
    /// The properties, in the order they were asked about.
    pub members: Vec<Member>,
}

/// One of several properties.
///
/// ```
/// # use clear_cascade::{MemoryLoader, Study};
/// # let files = MemoryLoader::default().with(
/// #     "a.html",
/// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
/// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
/// # );
/// # let page = Study::open(&files, "a.html")?;
/// let together = page.why_together(page.select("#one")?[0], None, &["color"])?;
/// assert_eq!(together.groups[0].members[0].why.value, "rgb(255, 215, 0)");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct Member {
    /// Its answer.
    pub why: Why,
    /// Whether the declaration that sets it says its value.
    pub said: Said,
    /// The steps from its part of the declaration to its value.
    pub steps: Vec<String>,
}

impl Study {
    /// Why properties of an element, or of one of its pseudo-elements, have their values. A shorthand stands for its
    /// longhands; what is named twice is answered once.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let together = page.why_together(page.select("#two")?[0], None, &["margin"])?;
    /// assert_eq!((together.groups.len(), together.groups[0].members.len()), (1, 4)); // One declaration gives all four.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where one of them does not exist, or the element is of another page.
    pub fn why_together(
        &self,
        element: ElementId,
        pseudo: Option<&PseudoElement>,
        properties: &[&str],
    ) -> Result<Together, WhyError> {
        let element = self.page.document.own(element)?;
        let mut names: Vec<String> = Vec::new();
        for property in properties {
            for longhand in self.longhands(property)? {
                if !names.contains(&longhand) {
                    names.push(longhand);
                }
            }
        }
        let mut found: Vec<(Cause, Group)> = Vec::new();
        for name in &names {
            let contest = Contest::new(self, element, pseudo, &self.asked(element, pseudo, name)?);
            let why = contest.answer();
            let (from, source) = contest.source();
            let lineage = contest.lineage(from, source);
            let cause = Cause::of(&why, source, &lineage);
            let words = |many: bool| contest.cause(&why.value, from, source, &lineage, many);
            let steps = contest.derivation(source, &why.value);
            match found.iter_mut().find(|(c, _)| *c == cause) {
                Some((_, group)) => {
                    group.cause = words(true);
                    group.members.push(Member { why, said: steps.said, steps: steps.result });
                }
                None => {
                    let (cause_text, put_in) = (words(false), steps.put_in);
                    let members = vec![Member { why, said: steps.said, steps: steps.result }];
                    found.push((cause, Group { cause: cause_text, put_in, members }));
                }
            }
        }
        found.sort_by_key(|(cause, _)| cause.from as u8);
        let subject = match properties {
            [one] if names.len() > 1 => format!("{} longhands of `{one}`", names.len()),
            _ if names.len() > properties.len() => format!("{} longhands", names.len()),
            _ => format!("{} properties", names.len()),
        };
        let sentence = sentence(&found, &subject);
        Ok(Together { sentence, groups: found.into_iter().map(|(_, group)| group).collect() })
    }
}

/// What makes values belong together.
#[derive(PartialEq)]
struct Cause {
    /// Where they come from; what would be inherited, but is set nowhere, is initial.
    from: ValueFrom,
    /// The declaration that gives them, or that says to inherit them or to take the initial value.
    source: Option<Span>,
    /// The element that they are inherited from, and the declaration there.
    giver: Option<(ElementId, Span)>,
    /// Whether there is no value at all.
    empty: bool,
    /// Whether they inherit.
    inherits: bool,
}

impl Cause {
    /// Of one answer.
    fn of(answer: &Why, source: Option<&Entry<'_>>, lineage: &Lineage) -> Self {
        let inherits = answer.from == ValueFrom::Inherited;
        let giver = lineage.steps.last().zip(lineage.given.as_ref());
        Self {
            from: if inherits && giver.is_none() { ValueFrom::Initial } else { answer.from },
            source: source.map(|e| e.declaration.span),
            giver: giver.map(|(step, (_, declaration))| (step.element, *declaration)),
            empty: answer.value.is_empty(),
            inherits,
        }
    }
}

/// How many values are told in a sentence at the most.
const FEW: usize = 4;

/// The answer for all of them: the cause where there is one, else how many are set, inherited and initial.
fn sentence(found: &[(Cause, Group)], subject: &str) -> String {
    let [(cause, group)] = found else {
        let count = |fits: &dyn Fn(&Cause) -> bool| -> usize {
            found.iter().filter(|(c, _)| fits(c)).map(|(_, g)| g.members.len()).sum()
        };
        let of = |from: ValueFrom| count(&|c| c.from == from && !c.empty);
        let declarations = found.iter().filter(|(c, _)| c.from == ValueFrom::Declared && !c.empty).count();
        let by = if declarations > 1 { format!(", by {declarations} declarations") } else { String::new() };
        let kinds = [
            (of(ValueFrom::Declared), ["is", "are"], format!("set here{by}")),
            (of(ValueFrom::Inherited), ["is", "are"], "inherited".to_owned()),
            (of(ValueFrom::Initial), ["is", "are"], "initial".to_owned()),
            (count(&|c| c.empty), ["has", "have"], "no value".to_owned()),
        ];
        let kinds: Vec<_> = kinds.into_iter().filter(|(n, ..)| *n > 0).collect();
        if let [(_, [_, are], what)] = kinds.as_slice() {
            let all = if *are == "are" { " all" } else { "" };
            return format!("The {subject} {are}{all} {what}.");
        }
        let part = |(n, [is, are], what): &(usize, [&str; 2], String)| {
            format!("{n} {} {what}", if *n == 1 { is } else { are })
        };
        let parts: Vec<String> = kinds.iter().map(part).collect();
        return format!("Of the {subject}, {}.", crate::text::and(&parts));
    };
    let first = &group.members[0].why;
    let alike = group.members.iter().all(|m| m.why.value == first.value);
    let are = match cause.from {
        _ if group.members.len() == 1 => return first.sentence.clone(),
        ValueFrom::Initial => "have".to_owned(),
        _ if cause.empty => "have".to_owned(),
        _ if alike => format!("are all {},", first.value),
        _ if group.members.len() <= FEW => {
            let values: Vec<String> = group.members.iter().map(|m| m.why.value.clone()).collect();
            format!("are {},", crate::text::and(&values))
        }
        _ => "are".to_owned(),
    };
    format!("The {subject} {are} {}.", group.cause)
}
