//! A page as it stands in a browser, after its scripts: taken by the open WebDriver protocol, CSSOM and the DOM alone.

use clear_cascade::source::Loaded;
use clear_cascade::viewing::PREFERENCES;
use serde::Deserialize;
use serde_json::json;
use url::Url;

use crate::driver::{Driver, query};
use crate::failure::Refusal;

/// A page as it stands.
pub(crate) struct Taken {
    /// Where it is.
    pub(crate) url: Url,
    /// Its text, and those of its sheets, by URL.
    pub(crate) parts: Vec<(Url, Loaded)>,
    /// The size of its viewport.
    pub(crate) viewport: (f64, f64),
    /// The preferences that hold there.
    pub(crate) preferences: Vec<(String, String)>,
}

/// What the script gives.
#[derive(Deserialize)]
struct Found {
    /// Where the page is.
    url: String,
    /// Its text.
    html: String,
    /// The texts of sheets by URL.
    sheets: Vec<(String, String)>,
    /// The size of the viewport.
    viewport: (f64, f64),
    /// Of the preferences that were asked for, by their number, those that hold.
    preferences: Vec<usize>,
}

/// Takes the page: its tree is written as HTML (HTML Standard, "Serializing HTML fragments"), with shadow trees as templates, with
/// what the user filled in, and with the rules that sheets have now where scripts changed them.
const SCRIPT: &str = r#"
    const [queries, done] = [arguments[0], arguments[arguments.length - 1]];
    const rules = (sheet) => { try { return [...sheet.cssRules].map((rule) => rule.cssText).join('\n'); } catch { return null; } };
    const parsed = (text) => {
        const sheet = new CSSStyleSheet();
        try { sheet.replaceSync(text); } catch { return null; }
        return rules(sheet);
    };
    const now = (sheet, text) => {
        const there = rules(sheet);
        const plain = there?.split('\n').filter((rule) => !rule.startsWith('@import')).join('\n');
        return there === null || plain === parsed(text) ? text : there;
    };
    const raw = new Set(['style', 'script', 'xmp', 'iframe', 'noembed', 'noframes', 'plaintext', 'noscript']);
    const bare = new Set(['area', 'base', 'br', 'col', 'embed', 'hr', 'img', 'input', 'link', 'meta', 'param', 'source', 'track', 'wbr']);
    const escaped = (text, more) => text.replace(/[&\u00a0<>]/g, (c) => ({ '&': '&amp;', '\u00a0': '&nbsp;', '<': '&lt;', '>': '&gt;' })[c])
        .replaceAll(more ? '"' : '\0', '&quot;');
    const html = 'http://www.w3.org/1999/xhtml';
    const adopted = (root) => [...(root.adoptedStyleSheets ?? [])].filter((sheet) => !sheet.disabled)
        .map((sheet) => `<style>${rules(sheet)}</style>`).join('');
    const written = (node) => {
        switch (node.nodeType) {
            case Node.TEXT_NODE: {
                const parent = node.parentNode;
                return parent.namespaceURI === html && raw.has(parent.localName) ? node.data : escaped(node.data);
            }
            case Node.COMMENT_NODE: return `<!--${node.data}-->`;
            case Node.DOCUMENT_TYPE_NODE: return `<!DOCTYPE ${node.name}${node.publicId ? ` PUBLIC "${node.publicId}"` : ''}${
                node.systemId ? `${node.publicId ? '' : ' SYSTEM'} "${node.systemId}"` : ''}>`;
            case Node.ELEMENT_NODE: break;
            default: return '';
        }
        const name = node.namespaceURI === html ? node.localName : node.nodeName;
        const own = new Map([...node.attributes].map((attribute) => [attribute.name, attribute.value]));
        const flag = (name, is) => is ? own.set(name, own.get(name) ?? '') : own.delete(name);
        if (node.localName === 'input' && ['checkbox', 'radio'].includes(node.type)) flag('checked', node.checked);
        if (node.localName === 'option') flag('selected', node.selected);
        if (node.localName === 'link' && node.sheet?.disabled) own.set('media', 'not all');
        let out = `<${name}${[...own].map(([name, value]) => ` ${name}="${escaped(value, true)}"`).join('')}>`;
        if (node.namespaceURI === html && bare.has(node.localName)) return out;
        if (node.localName === 'style' && node.namespaceURI === html) {
            return `${out}${node.sheet?.disabled ? '' : node.sheet ? now(node.sheet, node.textContent) : node.textContent}</style>`;
        }
        if (node.shadowRoot) {
            const inside = [...node.shadowRoot.childNodes].map(written).join('');
            out += `<template shadowrootmode="${node.shadowRoot.mode}">${inside}${adopted(node.shadowRoot)}</template>`;
        }
        // The first line end in these is not part of them.
        if (['pre', 'textarea', 'listing'].includes(node.localName) && node.textContent.startsWith('\n')) out += '\n';
        const inside = [...(node.localName === 'template' ? node.content : node).childNodes].map(written).join('');
        return `${out}${inside}${node === document.body ? adopted(document) : ''}</${name}>`;
    };
    const linked = new Map();
    const roots = [document];
    for (const root of roots) {
        for (const element of root.querySelectorAll('*')) {
            if (element.shadowRoot) roots.push(element.shadowRoot);
            if (element.localName === 'link' && element.sheet?.href) linked.set(element.sheet.href, element.sheet);
        }
    }
    const texts = [...linked].map(async ([href, sheet]) => {
        let text = null;
        try { const answer = await fetch(href); if (answer.ok) text = await answer.text(); } catch {}
        const there = text === null ? rules(sheet) : now(sheet, text);
        return there === null ? [] : [[href, there]];
    });
    Promise.all(texts).then((sheets) => done({
        url: document.URL,
        html: [...document.childNodes].map(written).join('\n'),
        sheets: sheets.flat(),
        viewport: [innerWidth, innerHeight],
        preferences: queries.flatMap((query, i) => matchMedia(query).matches ? [i] : []),
    }));
"#;

/// Takes a page from a browser, which opens a URL first where one is given.
pub(crate) fn page(driver: &str, url: Option<&Url>, viewport: Option<(f64, f64)>) -> Result<Taken, Refusal> {
    let driver = Driver::start(driver)?;
    if let Some(url) = url {
        if let Some(size) = viewport {
            driver.resize(size)?;
        }
        driver.go(url.as_str())?;
    }
    let known: Vec<(&str, &str)> = PREFERENCES.iter().flat_map(|(f, values)| values.iter().map(|v| (*f, *v))).collect();
    let queries: Vec<String> = known.iter().map(|(feature, value)| query(feature, value)).collect();
    let answer = driver.run_async(SCRIPT, &json!(queries))?;
    let unread = |e: &dyn std::fmt::Display| Refusal::new(format!("the page in the browser cannot be taken: {e}"));
    let found: Found = serde_json::from_value(answer).map_err(|e| unread(&e))?;
    let mut url = Url::parse(&found.url).map_err(|e| unread(&e))?;
    url.set_fragment(None);
    let page = Loaded::new(url.to_string(), found.html).content_type("text/html; charset=utf-8");
    let mut parts = vec![(url.clone(), page)];
    for (href, text) in found.sheets {
        let Ok(at) = Url::parse(&href) else { continue };
        parts.push((at, Loaded::new(href, text).content_type("text/css; charset=utf-8")));
    }
    let preferences = found.preferences.into_iter().filter_map(|i| known.get(i));
    let preferences = preferences.map(|(feature, value)| ((*feature).to_owned(), (*value).to_owned())).collect();
    Ok(Taken { url, parts, viewport: found.viewport, preferences })
}
