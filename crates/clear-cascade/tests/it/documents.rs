//! Where elements, attributes and texts stand (HTML Standard, "Parsing HTML documents").

use clear_cascade::document::ElementRef;

use crate::page;

/// Each element with its line and column, as `name line:column`.
fn places(html: &str) -> Vec<String> {
    let study = page(html);
    let place = |element: ElementRef<'_>| match element.tag {
        Some(span) => {
            let place = study.sources().place(span).unwrap();
            format!("{} {}:{}", element.name, place.line, place.column.unwrap())
        }
        None => format!("{} implied", element.name),
    };
    study.document().elements().map(place).collect()
}

#[test]
fn elements_know_where_they_are_written() {
    assert_eq!(
        places("<!DOCTYPE html>\n<p>a <b>b</b>\n<p>c"),
        ["html implied", "head implied", "body implied", "p 2:1", "b 2:6", "p 3:1"]
    );
    assert_eq!(
        places("<table><td>x"),
        ["html implied", "head implied", "body implied", "table 1:1", "tbody implied", "tr implied", "td 1:8"]
    );
    assert_eq!(
        places("<html><head><title>a < b</title><body>2 < 3 <i>x</i>")[2..],
        ["title 1:13", "body 1:33", "i 1:45"]
    );
    assert_eq!(places("<!-- <p> --><script>'<p>'</script><p>")[2..], ["script 1:13", "body implied", "p 1:35"]);
    assert_eq!(places("<p title='a > b'><i>")[3..], ["p 1:1", "i 1:18"]);
    assert_eq!(places("é<b>")[3..], ["b 1:2"]);
}

#[test]
fn elements_opened_again_stand_where_they_were_written() {
    // `<b>` is closed by `</p>` and opened again in the next paragraph.
    assert_eq!(places("<p><b class=a>x</p><p>y")[3..], ["p 1:1", "b 1:4", "p 1:20", "b 1:4"]);
    assert_eq!(places("<p><b>x</p><b>y")[3..], ["p 1:1", "b 1:4", "b 1:4", "b 1:12"]);
}

#[test]
fn templates_and_comments_are_left_out() {
    let study = page("<template><p></p></template><div><!-- x --></div>");
    let names: Vec<String> = study.document().elements().map(|e| e.name.to_string()).collect();
    assert_eq!(names, ["html", "head", "template", "body", "div"]);
    assert_eq!(study.select("div:empty").unwrap().len(), 1);
}

#[test]
fn declarations_in_attributes_know_where_they_are() {
    let html = "<p style=\"font-family: &quot;A&quot;; color: green\">";
    let study = page(html);
    let why = study.why(study.select("p").unwrap()[0], "color").unwrap();
    let winner = &why.contenders[0];
    assert_eq!(&html[winner.start as usize..winner.end as usize], "color: green");
    assert_eq!(winner.at.column.unwrap() as usize, html.find("color").unwrap() + 1);
}

#[test]
fn nothing_makes_the_library_panic() {
    let deep = "<div>".repeat(3000) + "x";
    for html in
        ["", "<", "<p", "<style>", "</p>", "<p style='", "\0", "<a b=\"&", "<svg><style><![CDATA[p{}]]>", deep.as_str()]
    {
        let study = page(html);
        assert!(study.document().elements().len() > 0);
    }
}

#[test]
fn what_the_parser_moves_is_told() {
    // What is written, the element asked about, and what it is written inside of; nothing where all is as it is written.
    let cases = [
        ("<p class=a>x<center>y</center>z</p>", "center", Some("p.a")),
        ("<table><div>x</div><tr><td>y</table>", "div", Some("table")),
        ("<b><p>x</b>y</p>", "p", Some("b")),
        ("<a href=1>x<a href=2>y</a></a>", "a + a", Some("a")),
        ("<ul><li>a<li>b</ul>", "li + li", None),
        ("<table><tr><td>x<tr><td>y</table>", "tr + tr", None),
        ("<svg><path/><g></g></svg>", "g", None),
        ("<p>x<br>y<img>z</p><div></div>", "div", None),
        ("<div><template shadowrootmode=open><p>x</p></template><i>y</i></div>", "i", None),
        ("<select><option>a<option>b</select>", "option + option", None),
    ];
    for (html, selector, inside) in cases {
        let study = page(&format!("<!DOCTYPE html><body>{html}"));
        let element = study.select(selector).unwrap()[0];
        let written_in = study.document().element(element).unwrap().written_in();
        assert_eq!(written_in.map(ElementRef::label).as_deref(), inside, "{html}");
        let told = study.how_parsed(element).unwrap().unwrap_or_default();
        assert_eq!(told.contains("is written inside"), inside.is_some(), "{html}: {told}");
    }
}

#[test]
fn elements_that_end_tags_make_are_where_those_are() {
    let study = page("<!DOCTYPE html><body><div>x</p>y</br></div>");
    let at = |name: &str| {
        study.sources().place(study.document().get(study.select(name).unwrap()[0]).unwrap().span()).unwrap().to_string()
    };
    assert_eq!((at("p"), at("br")), ("index.html:1:28".to_owned(), "index.html:1:33".to_owned()));
}

#[test]
fn texts_of_any_length_are_kept_as_they_are() {
    for length in [0, 1, 7, 8, 22, 23, 24, 25, 4000] {
        for letter in ["x", " ", "é", "語", "&amp;"] {
            let written = letter.repeat(length);
            let meant = letter.replace("&amp;", "&").repeat(length);
            let study = page(&format!("<!DOCTYPE html><p title='{written}'>{written}<b>{written}</b>{written}</p>"));
            let p = study.document().element(study.select("p").unwrap()[0]).unwrap();
            assert_eq!((p.attribute("title"), p.own_text()), (Some(&*meant), meant.repeat(2)), "{length} of {letter}");
        }
    }
}

#[test]
fn elements_are_found_by_their_text() {
    let study = page(
        "<!DOCTYPE html><title>Hello</title><div>Hello <b>big \n world</b></div><p>Hello</p><p>hello again</p><style>Hello{}</style>",
    );
    let named = |name: &str| {
        let found = study.locate(name).map(|l| l.elements).unwrap_or_default();
        found.iter().map(|e| study.described(*e, "").unwrap()).collect::<Vec<_>>().join(", ")
    };
    assert_eq!(named("\"Hello\""), "p \"Hello\"");
    assert_eq!(named("\"Hello big\""), "div \"Hello big world\"");
    assert_eq!(named("'big world'"), "b \"big world\"");
    assert_eq!(named("\"HELLO AG\"::before"), "p \"hello again\"");
    assert_eq!(study.locate("\"nope\"").unwrap_err().to_string(), "no element of the page has the text \"nope\" in it");
    assert!(study.locate("\"\"").is_err());
}
