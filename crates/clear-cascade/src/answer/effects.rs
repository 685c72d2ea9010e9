//! Declarations that win and still show nothing, because of the kind of box they are on.
//!
//! What comes in: an element with its values. What goes out: each such property with the reason and the passage that says
//! to which boxes it applies. Only what needs no layout is told.

use serde::{Deserialize, Serialize};

use super::cause::Causes;
use crate::cascade::Origin;
use crate::document::{Element, ElementId, ForeignElement, Namespace};
use crate::property::{PropertyId, id};
use crate::source::Place;
use crate::study::Study;
use crate::style::{Entry, Style};
use crate::stylesheet::Property;

/// A declaration that wins and has no effect.
///
/// ```
/// use clear_cascade::{MemoryLoader, Study};
/// let files = MemoryLoader::default().with("a.html", "<!DOCTYPE html><style>b { width: 9px }</style><p><b>a</b>");
/// let page = Study::open(&files, "a.html")?;
/// let none = &page.without_effect(page.select("b")?[0])?[0];
/// assert_eq!((none.property.as_str(), none.value.as_str()), ("width", "9px"));
/// assert!(none.reason.contains("inline"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[non_exhaustive]
pub struct NoEffect {
    /// The property.
    pub property: String,
    /// Its computed value.
    pub value: String,
    /// Where it is declared.
    pub at: Place,
    /// Why it does nothing here, as one clause.
    pub reason: String,
    /// The passage that says to what the property applies.
    pub passage: String,
}

/// An element and what decides which properties apply to it.
struct Box<'s> {
    /// Its values.
    style: &'s Style,
    /// The values of the element around it.
    parent: Option<&'s Style>,
    /// The element.
    element: &'s Element,
    /// Whether a list item is inside it, or it is one.
    has_list_items: &'s dyn Fn() -> bool,
    /// Whether a table or a part of one is inside it: what is inherited there counts.
    has_tables: &'s dyn Fn() -> bool,
}

impl Box<'_> {
    /// The value of a longhand as text.
    fn text(&self, property: PropertyId) -> String {
        self.style.get(property).text()
    }

    /// Whether a longhand is one of some keywords.
    fn is(&self, property: PropertyId, words: &[&str]) -> bool {
        words.contains(&&*self.text(property))
    }

    /// Whether `display` is one of some keywords.
    fn shown_as(&self, words: &[&str]) -> bool {
        self.is(id::DISPLAY, words)
    }

    /// Whether what is inside comes from somewhere else, or from the platform.
    fn is_replaced(&self) -> bool {
        const REPLACED: &[&str] = &[
            "img", "video", "canvas", "iframe", "embed", "object", "audio", "input", "textarea", "select", "button",
            "meter", "progress",
        ];
        self.element.namespace == Namespace::Svg && &*self.element.name == "svg"
            || self.element.namespace == Namespace::Html && REPLACED.contains(&&*self.element.name)
    }

    /// Whether it is a plain inline box: a run of text.
    fn is_inline(&self) -> bool {
        self.shown_as(&["inline"]) && !self.is_replaced()
    }

    /// Whether it is a part of a table other than a cell or caption.
    fn is_table_part(&self) -> bool {
        self.shown_as(&[
            "table-row",
            "table-row-group",
            "table-header-group",
            "table-footer-group",
            "table-column",
            "table-column-group",
        ])
    }

    /// Whether the box around it lays out as one of some keywords.
    fn inside(&self, words: &[&str]) -> bool {
        self.parent.is_some_and(|p| words.contains(&&*p.get(id::DISPLAY).text()))
    }

    /// Whether it is taken out of the flow.
    fn is_absolute(&self) -> bool {
        self.is(id::POSITION, &["absolute", "fixed"])
    }
}

/// A rule: the properties, when they do nothing, why, and the passage.
type Rule = (&'static [&'static str], fn(&Box<'_>) -> bool, &'static str, &'static str);

/// Keywords of flex containers.
const FLEX: &[&str] = &["flex", "inline-flex"];
/// Keywords of grid containers.
const GRID: &[&str] = &["grid", "inline-grid"];
/// Keywords of flex and grid containers.
const FLEX_OR_GRID: &[&str] = &["flex", "inline-flex", "grid", "inline-grid"];

/// All rules; of several that fit a property, the first is told.
const RULES: &[Rule] = &[
    (&["*"], |b| b.shown_as(&["none"]), "the element is not shown at all (`display: none`)", "CSS Display 3, §2.5"),
    (
        &["width", "height", "min-width", "min-height", "max-width", "max-height", "aspect-ratio"],
        |b| b.is_inline(),
        "an inline box is as large as its text; `display: inline-block` or `block` takes a size",
        "CSS Sizing 3, §3.1.1",
    ),
    (
        &["margin-top", "margin-bottom"],
        |b| b.is_inline(),
        "margins above and below an inline box do not move anything",
        "CSS 2, §8.3",
    ),
    (
        &["overflow-x", "overflow-y", "text-overflow", "resize"],
        |b| b.is_inline(),
        "an inline box has nothing that could overflow; it applies to block, flex and grid containers",
        "CSS Overflow 3, §3",
    ),
    (
        &["transform", "rotate", "scale", "translate", "transform-origin"],
        |b| b.is_inline() || b.shown_as(&["table-column", "table-column-group"]),
        "inline boxes and columns of tables cannot be transformed",
        "CSS Transforms 1, §3 \"transformable element\"",
    ),
    (
        &["text-align", "text-indent", "text-align-last"],
        |b| b.is_inline(),
        "it is about the lines inside a block; an inline box has none of its own",
        "CSS Text 3, §6.1",
    ),
    (
        &["columns", "column-count", "column-width"],
        |b| b.is_inline() || b.shown_as(FLEX_OR_GRID) || b.is_table_part() || b.shown_as(&["table", "inline-table"]),
        "only block containers are set in columns",
        "CSS Multicol 1, §3",
    ),
    (
        &["z-index"],
        |b| b.is(id::POSITION, &["static"]) && !b.inside(FLEX_OR_GRID),
        "it orders positioned boxes and flex or grid items, and this is neither; `position: relative` makes it one",
        "CSS 2, §9.9.1",
    ),
    (
        &["top", "right", "bottom", "left"],
        |b| b.is(id::POSITION, &["static"]),
        "a static box is not moved; `position: relative` or another makes it count",
        "CSS Position 3, §3.1",
    ),
    (
        &["position"],
        |b| {
            let sides = [id::TOP, id::RIGHT, id::BOTTOM, id::LEFT];
            b.is(id::POSITION, &["sticky"]) && sides.iter().all(|s| b.is(*s, &["auto"]))
        },
        "a sticky box sticks only where one of `top`, `right`, `bottom` and `left` is set",
        "CSS Position 3, §3.4",
    ),
    (
        &["margin-top", "margin-right", "margin-bottom", "margin-left"],
        |b| b.is_table_part() || b.shown_as(&["table-cell"]),
        "rows, columns and cells of a table have no margins; `border-spacing` on the table parts them",
        "CSS 2, §8.3",
    ),
    (
        &["padding-top", "padding-right", "padding-bottom", "padding-left"],
        |b| b.is_table_part(),
        "rows and columns of a table have no padding; their cells do",
        "CSS 2, §8.4",
    ),
    (
        &["width", "min-width", "max-width"],
        |b| b.shown_as(&["table-row", "table-row-group", "table-header-group", "table-footer-group"]),
        "a row is as wide as its table",
        "CSS 2, §10.2",
    ),
    (
        &["height", "min-height", "max-height"],
        |b| b.shown_as(&["table-column", "table-column-group"]),
        "a column is as high as its table",
        "CSS 2, §10.5",
    ),
    (
        &["vertical-align"],
        |b| {
            let fits = b.shown_as(&[
                "inline",
                "inline-block",
                "inline-flex",
                "inline-grid",
                "inline-table",
                "table-cell",
                "ruby",
                "table-row",
            ]);
            !fits
        },
        "it aligns inline boxes in a line and cells in a row, and this is a block",
        "CSS 2, §10.8.1",
    ),
    (
        &["float"],
        |b| b.inside(FLEX_OR_GRID) && !b.is_absolute(),
        "items of a flex or grid container do not float",
        "CSS Flexbox 1, §3",
    ),
    (
        &["clear"],
        |b| !b.shown_as(&["block", "flow-root", "flex", "grid", "table", "list-item"]),
        "only block-level boxes are moved below floats",
        "CSS 2, §9.5.2",
    ),
    (
        &["flex-grow", "flex-shrink", "flex-basis"],
        |b| !b.inside(FLEX),
        "the box around is no flex container, so there is no room to share",
        "CSS Flexbox 1, §7.1",
    ),
    (
        &["order"],
        |b| !b.inside(FLEX_OR_GRID),
        "the box around is no flex or grid container, so there are no items to order",
        "CSS Display 4, §3.1",
    ),
    (
        &["align-self"],
        |b| !b.inside(FLEX_OR_GRID) && !b.is_absolute(),
        "the box around is no flex or grid container",
        "CSS Align 3, §6.2",
    ),
    (
        &["justify-self"],
        |b| !b.inside(GRID) && !b.is_absolute(),
        "the box around is no grid container",
        "CSS Align 3, §6.1",
    ),
    (
        &["grid-row-start", "grid-row-end", "grid-column-start", "grid-column-end"],
        |b| !b.inside(GRID) && !b.is_absolute(),
        "the box around is no grid container, so there are no lines to be placed at",
        "CSS Grid 1, §8",
    ),
    (
        &["flex-direction", "flex-wrap"],
        |b| !b.shown_as(FLEX),
        "this is no flex container; `display: flex` makes it one",
        "CSS Flexbox 1, §5",
    ),
    (
        &["justify-content", "align-items"],
        |b| !b.shown_as(FLEX_OR_GRID),
        "this is no flex or grid container, so there are no items to align",
        "CSS Align 3, §5.1",
    ),
    (
        &[
            "grid-template-columns",
            "grid-template-rows",
            "grid-template-areas",
            "grid-auto-columns",
            "grid-auto-rows",
            "grid-auto-flow",
            "justify-items",
        ],
        |b| !b.shown_as(GRID),
        "this is no grid container; `display: grid` makes it one",
        "CSS Grid 1, §7",
    ),
    (
        &["row-gap", "column-gap"],
        |b| !b.shown_as(FLEX_OR_GRID) && b.is(id::COLUMN_COUNT, &["auto"]) && b.is(id::COLUMN_WIDTH, &["auto"]),
        "gaps are between items of flex and grid containers and between columns",
        "CSS Align 3, §8.1",
    ),
    (
        &["text-overflow"],
        |b| b.is(id::OVERFLOW_X, &["visible"]),
        "text is cut only where it is clipped; `overflow: hidden` clips it",
        "CSS Overflow 4, §5",
    ),
    (
        &["resize"],
        |b| b.is(id::OVERFLOW_X, &["visible"]) && !b.is_replaced(),
        "only boxes that clip or scroll can be resized; `overflow: auto` makes it one",
        "CSS Basic User Interface 4, §5.1",
    ),
    (
        &["border-spacing", "border-collapse", "caption-side", "empty-cells"],
        |b| {
            let is_table = b.shown_as(&["table", "inline-table", "table-cell", "table-caption"]);
            !is_table && !b.is_table_part() && !(b.has_tables)()
        },
        "neither this nor anything inside is a table",
        "CSS 2, §17",
    ),
    (&["table-layout"], |b| !b.shown_as(&["table", "inline-table"]), "this is no table", "CSS 2, §17.6"),
    (
        &["border-spacing"],
        |b| b.is(id::BORDER_COLLAPSE, &["collapse"]),
        "collapsed borders leave no space between cells",
        "CSS 2, §17.6.2",
    ),
    (
        &[
            "border-top-left-radius",
            "border-top-right-radius",
            "border-bottom-left-radius",
            "border-bottom-right-radius",
        ],
        |b| {
            // Its ground, what it clips, shadows and outlines have round corners all the same; cells are left open.
            let table = b.shown_as(&["table", "inline-table"]) && b.is(id::BORDER_COLLAPSE, &["collapse"]);
            let bare = [
                (id::OVERFLOW_X, "visible"),
                (id::BACKGROUND_COLOR, "rgba(0, 0, 0, 0)"),
                (id::BACKGROUND_IMAGE, "none"),
                (id::BOX_SHADOW, "none"),
                (id::OUTLINE_STYLE, "none"),
                (id::CLIP_PATH, "none"),
                (id::BACKDROP_FILTER, "none"),
            ];
            table && bare.iter().all(|(property, text)| b.is(*property, &[text]))
        },
        "the borders of a table that collapse have no round corners, and it has nothing else that could",
        "CSS Backgrounds 3, §4.4",
    ),
    (
        &["list-style-type", "list-style-position", "list-style-image"],
        |b| !(b.has_list_items)(),
        "neither this nor anything inside is a list item, so there is no marker",
        "CSS Lists 3, §3",
    ),
    (
        &["object-fit", "object-position"],
        |b| !b.is_replaced(),
        "it fits pictures and videos into their box, and this holds neither",
        "CSS Images 3, §4.5",
    ),
    (
        &["line-height"],
        |b| ["hr", "img", "video", "canvas", "iframe", "embed"].contains(&&*b.element.name),
        "there is no line of text inside",
        "CSS Inline 3, §5.1",
    ),
    (
        &["aspect-ratio"],
        |b| !b.is(id::WIDTH, &["auto"]) && !b.is(id::HEIGHT, &["auto"]),
        "both width and height are set, so no ratio is asked",
        "CSS Sizing 4, §6.1",
    ),
    (
        &["outline-color", "outline-width", "outline-offset"],
        |b| b.is(id::OUTLINE_STYLE, &["none"]),
        "there is no outline: `outline-style` is `none`",
        "CSS Basic User Interface 4, §3.3",
    ),
    (
        &["border-top-color", "border-top-width"],
        |b| b.is(id::BORDER_TOP_STYLE, &["none", "hidden"]),
        "there is no border: its style is `none`",
        "CSS Backgrounds 3, §3.2",
    ),
    (
        &["border-left-color", "border-left-width"],
        |b| b.is(id::BORDER_LEFT_STYLE, &["none", "hidden"]),
        "there is no border: its style is `none`",
        "CSS Backgrounds 3, §3.2",
    ),
    (
        &["text-decoration-color", "text-decoration-style", "text-decoration-thickness"],
        |b| b.is(id::TEXT_DECORATION_LINE, &["none"]),
        "there is no line: `text-decoration-line` is `none`",
        "CSS Text Decoration 3, §2",
    ),
    (
        &[
            "background-size",
            "background-repeat",
            "background-position-x",
            "background-position-y",
            "background-attachment",
        ],
        |b| b.is(id::BACKGROUND_IMAGE, &["none"]),
        "there is no background image",
        "CSS Backgrounds 3, §2",
    ),
    (
        &[
            "animation-duration",
            "animation-delay",
            "animation-iteration-count",
            "animation-timing-function",
            "animation-direction",
        ],
        |b| b.is(id::ANIMATION_NAME, &["none"]),
        "there is no animation: `animation-name` is `none`",
        "CSS Animations 1, §3.2",
    ),
];

impl Study {
    /// The declarations of the page that win on an element and have no effect on this kind of box. Parts of a shorthand that
    /// were not written are left out.
    ///
    /// ```
    /// # use clear_cascade::{MemoryLoader, Study};
    /// # let files = MemoryLoader::default().with(
    /// #     "a.html",
    /// #     "<!DOCTYPE html><style>p { color: navy; margin: 1px } .lead { color: gold } p::before { content: '*' } b { widht: 2px; width: 3px }
    /// #     @media print { p { color: black } }</style><body><p id=one class=lead>Hello <b>you</b></p><p id=two>Bye</p></body>",
    /// # );
    /// # let page = Study::open(&files, "a.html").unwrap();
    /// let idle = page.without_effect(page.select("b")?[0])?;
    /// assert_eq!(idle[0].property, "width"); // Nothing to size on an inline box.
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Where the element is of another page.
    pub fn without_effect(&self, element: ElementId) -> Result<Vec<NoEffect>, ForeignElement> {
        let element = self.page.document.own(element)?;
        let style = self.style(element);
        let causes = Causes::new(self, element, None);
        let found = causes
            .set_by_page()
            .iter()
            .filter_map(|property| {
                let winner = causes.winner(property.name())?;
                let (reason, passage) = self.no_effect(element, property, winner)?;
                Some(NoEffect {
                    property: property.name().to_owned(),
                    value: style.text(property),
                    at: self.sources.placed(winner.declaration.span),
                    reason: reason.to_owned(),
                    passage: passage.to_owned(),
                })
            })
            .collect();
        Ok(found)
    }

    /// Why what a declaration of the page sets on an element does nothing there, and the passage that says so.
    pub(super) fn no_effect(
        &self,
        element: ElementId,
        property: PropertyId,
        winner: &Entry<'_>,
    ) -> Option<(&'static str, &'static str)> {
        if winner.origin() != Origin::Author {
            return None;
        }
        let document = &self.page.document;
        let style = self.style(element);
        let item = |e: ElementId| self.style(e).get(id::DISPLAY).text().contains("list-item");
        let table = |e: ElementId| self.style(e).get(id::DISPLAY).text().contains("table");
        let within = |e: ElementId| document.flat_lineage(e).any(|a| a == element);
        // Boxes with `display: contents` do not come between.
        let mut around = document.flat_lineage(element).skip(1).map(|e| self.style(e));
        let subject = Box {
            style,
            parent: around.find(|s| !s.get(id::DISPLAY).is("contents")),
            element: document.node(element),
            has_tables: &|| document.all_ids().any(|e| table(e) && within(e)),
            has_list_items: &|| item(element) || document.all_ids().any(|e| item(e) && within(e)),
        };
        let about = |names: &[&str]| names.contains(&property.name()) || names.contains(&"*");
        let (names, _, reason, passage) = RULES.iter().find(|(names, fits, ..)| about(names) && fits(&subject))?;
        // A shorthand resets much that nobody meant to say.
        let outright = matches!(&winner.declaration.property, Property::Known(p) if p.is_longhand());
        let shows = names.contains(&"*") && property == id::DISPLAY;
        (!shows && (outright || !style.is_initial(property))).then_some((*reason, *passage))
    }
}
