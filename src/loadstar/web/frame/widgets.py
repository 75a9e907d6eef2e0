"""Fields of forms written out in Python, as Django's templates for them have it: a page with a hundred choices has no
need of a hundred templates."""

from collections.abc import Mapping
from typing import Any

from django import forms
from django.utils.html import conditional_escape
from django.utils.safestring import SafeString, mark_safe


def _attributes(attrs: Mapping[str, Any]) -> str:
    """As they stand in a tag: what is True by its name alone, what is False not at all."""
    return "".join(f" {name}" if value is True else f' {name}="{conditional_escape(str(value))}"'
                   for name, value in attrs.items() if value is not False)


class Text(forms.TextInput):
    """One line."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        """The tag."""
        widget = self.get_context(name, value, attrs)["widget"]
        shown = "" if widget["value"] is None else f' value="{conditional_escape(str(widget["value"]))}"'
        return mark_safe(f'<input type="{self.input_type}" name="{conditional_escape(widget["name"])}"{shown}'
                         f'{_attributes(widget["attrs"])}>')


class Lines(forms.Textarea):
    """Several lines."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        """The tag and what stands in it; its first line break is none of the text's."""
        widget = self.get_context(name, value, attrs)["widget"]
        return mark_safe(f'<textarea name="{conditional_escape(widget["name"])}"{_attributes(widget["attrs"])}>\n'
                         f'{conditional_escape(widget["value"] or "")}</textarea>')


class Choice(forms.Select):
    """One of a list."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        """The list with its options, in groups where they have any."""
        widget = self.get_context(name, value, attrs)["widget"]
        made = [f'<select name="{conditional_escape(widget["name"])}"{_attributes(widget["attrs"])}>']
        for group, options, _ in widget["optgroups"]:
            if group:
                made.append(f'  <optgroup label="{conditional_escape(str(group))}">')
            made += [f'  <option value="{conditional_escape(str(option["value"]))}"{_attributes(option["attrs"])}>'
                     f'{conditional_escape(option["label"])}</option>' for option in options]
            if group:
                made.append("  </optgroup>")
        return mark_safe("\n".join([*made, "</select>"]))


class Ticks(forms.CheckboxSelectMultiple):
    """Any number of a list, a tick for each."""

    use_fieldset = False

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        """A box with its words for each, after an empty one of the same name that is always sent."""
        widget = self.get_context(name, value, attrs)["widget"]
        sent = conditional_escape(widget["name"])
        made = [f'<span class="ticks" role="group"{_attributes(widget["attrs"])}>',
                f'  <input type="hidden" name="{sent}" value="">']
        made += [f'  <label><input type="checkbox" name="{sent}" value="{conditional_escape(str(option["value"]))}"'
                 f'{_attributes({"checked": option["selected"]})}> {conditional_escape(option["label"])}</label>'
                 for _, options, _ in widget["optgroups"] for option in options]
        return mark_safe("\n".join([*made, "</span>"]))
