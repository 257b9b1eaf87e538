//! What the editor asks for: edits, and what is to be said of a place.

use std::collections::{BTreeSet, HashMap};
use std::ops::Range;

use lsp_server::{ErrorCode, Request, RequestId, Response};
use serde_json::{Value, json};
use washout_core::RuleId;

use super::projects::FileRules;
use super::protocol::{Answer, NoAnswer, is_rule_set, needed, text_edits, uri_of, value};
use super::rule_set;
use super::server::{OpenFile, Server};
use super::text_file::{PlacedEdit, edits};
use super::types::{self, ActionKind, ActionsFor, AtPlace, CodeAction, OfText, Renaming, TextEdit, WorkspaceEdit};

/// More changes than this are not offered one by one.
const MOST_ACTIONS: usize = 10;

impl Server<'_> {
    pub(super) fn answer(&mut self, request: Request) {
        let Request { id, method, params: asked } = request;
        let answer = match method.as_str() {
            "textDocument/formatting" => self.formatted(&id, asked),
            "textDocument/codeAction" => self.actions(&id, asked),
            "textDocument/hover" => self.hover(asked),
            "textDocument/completion" => self.completions(asked),
            "textDocument/definition" => self.definition(asked),
            "textDocument/rename" => self.renamed(asked),
            "textDocument/codeLens" => self.lenses(asked),
            _ => {
                let message = format!("no such request: {method}");
                return self.send(Response::new_err(id, ErrorCode::MethodNotFound as i32, message).into());
            }
        };
        let response = match answer {
            Ok(answer) => Response::new_ok(id, answer),
            Err(NoAnswer::Unwanted) => Response::new_err(id, ErrorCode::RequestCanceled as i32, "cancelled".to_owned()),
            Err(NoAnswer::Failed(why)) => Response::new_err(id, ErrorCode::RequestFailed as i32, why),
        };
        self.send(response.into());
    }

    fn file(&self, uri: &str) -> Result<&OpenFile, NoAnswer> {
        self.open.get(uri).ok_or_else(|| "this text is not open".into())
    }

    /// The rules for an open text, and what they would change in it.
    fn edits_of(&mut self, id: &RequestId, uri: &str) -> Result<Option<(FileRules, Vec<PlacedEdit>)>, NoAnswer> {
        let open = self.open.get_mut(uri).ok_or("this text is not open")?;
        if is_rule_set(&open.path) {
            return Ok(None);
        }
        let Some(rules) = self.projects.rules_for(&open.path)? else { return Ok(None) };
        let edits = open.changes.of(&open.document, &rules, &|| !self.messages.is_cancelled(id))?;
        Ok(Some((rules, edits)))
    }

    fn formatted(&mut self, id: &RequestId, asked: Value) -> Answer {
        let OfText { text_document: text } = needed(asked)?;
        let Some((_, edits)) = self.edits_of(id, &text.uri)? else { return Ok(json!([])) };
        value(text_edits(&self.file(&text.uri)?.document, &edits)?)
    }

    fn actions(&mut self, id: &RequestId, asked: Value) -> Answer {
        let ActionsFor { text_document: text, range, context } = needed(asked)?;
        let mut actions = Vec::new();
        let open = self.file(&text.uri)?;
        let place = open.document.bytes(range);
        let touches = |other: &Range<usize>| other.start <= place.end && place.start <= other.end;
        let mut add = |title: String, kind: ActionKind, edits: Vec<TextEdit>| {
            let edit = WorkspaceEdit { changes: HashMap::from([(text.uri.clone(), edits)]) };
            actions.push(CodeAction { title, kind, edit });
        };
        if is_rule_set(&open.path) {
            let findings = rule_set::findings(&open.path, &open.document).into_iter();
            for finding in findings.filter(|finding| touches(&finding.place)) {
                if let Some(mend) = finding.mend {
                    let edit = TextEdit { range: open.document.range(finding.place), new_text: mend.clone() };
                    add(format!("write `{mend}`"), ActionKind::QUICK_FIX, vec![edit]);
                }
            }
            return value(actions);
        }
        let Some((rules, all)) = self.edits_of(id, &text.uri)? else { return value(actions) };
        let document = &self.file(&text.uri)?.document;
        // A kind that is asked for stands for those below it too: `source` for `source.fixAll`.
        let asks_for = |kind: ActionKind| {
            context.only.as_ref().is_none_or(|only| only.iter().any(|wanted| kind.0.starts_with(wanted)))
        };
        let here: Vec<&PlacedEdit> = all.iter().filter(|edit| touches(&edit.place)).collect();
        if asks_for(ActionKind::QUICK_FIX) {
            let caption = |rule: RuleId| {
                let name = &rules.program.names()[rule.0];
                format!("rule {}, {}", name.number, name.caption)
            };
            for edit in here.iter().take(MOST_ACTIONS) {
                let edits = text_edits(document, std::slice::from_ref(*edit))?;
                add(format!("change this place: {}", caption(edit.rule)), ActionKind::QUICK_FIX, edits);
            }
            for rule in here.iter().map(|edit| edit.rule).collect::<BTreeSet<_>>() {
                let alone = rules.program.with_rules_off(|other| other != rule);
                let edits = text_edits(
                    document,
                    &edits(&alone, document.text.as_bytes(), &|| !self.messages.is_cancelled(id))?,
                )?;
                add(format!("in the whole file: {}", caption(rule)), ActionKind::QUICK_FIX, edits);
            }
        }
        if !all.is_empty() {
            let title = "clean the whole file by all rules".to_owned();
            if context.only.is_none() && !here.is_empty() {
                add(title, ActionKind::QUICK_FIX, text_edits(document, &all)?);
            } else if context.only.is_some() && asks_for(ActionKind::FIX_ALL) {
                add(title, ActionKind::FIX_ALL, text_edits(document, &all)?);
            }
        }
        value(actions)
    }

    /// The rule set in which something is asked of a place, and the place in bytes; `None`: it is another text.
    fn place_in_rule_set(&self, at: &AtPlace) -> Result<Option<(&OpenFile, usize)>, NoAnswer> {
        let open = self.file(&at.text_document.uri)?;
        Ok(is_rule_set(&open.path).then(|| (open, open.document.byte(at.position))))
    }

    fn hover(&self, asked: Value) -> Answer {
        let Some((open, at)) = self.place_in_rule_set(&needed(asked)?)? else { return Ok(Value::Null) };
        let said = rule_set::hover(&open.path, &open.document, at);
        Ok(said.map_or(Value::Null, |said| json!({ "contents": { "kind": "markdown", "value": said } })))
    }

    fn completions(&mut self, asked: Value) -> Answer {
        let Some((open, at)) = self.place_in_rule_set(&needed(asked)?)? else { return Ok(json!([])) };
        let (document, path) = (open.document.clone(), open.path.clone());
        value(rule_set::completions(&document, at, || self.projects.fields_for(&path)))
    }

    fn definition(&self, asked: Value) -> Answer {
        let Some((open, at)) = self.place_in_rule_set(&needed(asked)?)? else { return Ok(Value::Null) };
        let file = rule_set::named_file(&open.path, &open.document, at);
        let start = types::Range::default();
        Ok(file.map_or(Value::Null, |file| json!({ "uri": uri_of(&file), "range": start })))
    }

    fn renamed(&self, asked: Value) -> Answer {
        let Renaming { at, new_name } = needed(asked)?;
        let found = self.place_in_rule_set(&at)?;
        let labels = found.and_then(|(open, at)| Some((open, rule_set::label_places(&open.document, at)?.1)));
        let Some((open, places)) = labels else { return Err("only labels of rules can be renamed".into()) };
        let new_text = toml::Value::from(new_name).to_string();
        let edit = |place| TextEdit { range: open.document.range(place), new_text: new_text.clone() };
        let edits = places.into_iter().map(edit).collect();
        value(WorkspaceEdit { changes: HashMap::from([(at.text_document.uri, edits)]) })
    }

    fn lenses(&self, asked: Value) -> Answer {
        let OfText { text_document: text } = needed(asked)?;
        let open = self.file(&text.uri)?;
        let proofs = if is_rule_set(&open.path) { rule_set::proofs(&open.path, &open.document) } else { Vec::new() };
        let lens = |(place, holds): (Range<usize>, bool)| {
            let title = if holds { "the example holds" } else { "the example does not hold" };
            json!({ "range": open.document.range(place), "command": { "title": title, "command": "" } })
        };
        Ok(proofs.into_iter().map(lens).collect())
    }
}
