// The page of a report, as a Mustache template.
#pragma once

namespace wavy {

inline constexpr const char* report_page = R"page(<!DOCTYPE html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{{title}}</title>
<style>
  :root { --ink: #22202a; --soft: #6b6678; --line: #dcd8e4; --tint: #f4f2f8; --mark: #5b4b9a; --warn: #a8430f; }
  * { box-sizing: border-box; }
  body { margin: 0 auto; max-width: 1120px; padding: 28px 32px 60px; color: var(--ink); background: #fff;
         font: 15px/1.5 "DejaVu Sans", system-ui, sans-serif; }
  header { border-bottom: 3px solid var(--mark); margin-bottom: 20px; padding-bottom: 12px; }
  h1 { font-size: 26px; margin: 0 0 4px; font-weight: 600; }
  h2 { font-size: 18px; margin: 32px 0 10px; font-weight: 600; color: var(--mark); break-after: avoid; }
  h3 { font-size: 14px; margin: 14px 0 4px; font-weight: 600; }
  p { margin: 6px 0; max-width: 84ch; }
  .soft { color: var(--soft); }
  .warn { color: var(--warn); font-weight: 600; }
  ul { margin: 6px 0; padding-left: 20px; }
  li { margin: 3px 0; max-width: 84ch; }
  figure { margin: 10px 0; break-inside: avoid; }
  figure img { width: 100%; border: 1px solid var(--line); border-radius: 4px; }
  figcaption { color: var(--soft); font-size: 13px; }
  .wide { overflow-x: auto; }
  table { border-collapse: collapse; margin: 8px 0; font-size: 13.5px; break-inside: avoid; }
  th, td { text-align: left; padding: 4px 14px 4px 0; border-bottom: 1px solid var(--line); vertical-align: top; }
  th { font-weight: 600; border-bottom: 2px solid var(--soft); }
  td { font-variant-numeric: tabular-nums; }
  .case { columns: 3; column-gap: 28px; font-size: 13px; }
  .case section { break-inside: avoid; margin-bottom: 10px; }
  .case dl { margin: 0; display: grid; grid-template-columns: max-content 1fr; column-gap: 10px; }
  .case dt { color: var(--soft); }
  .case dd { margin: 0; overflow-wrap: anywhere; }
  @media print {
    body { max-width: none; padding: 0; font-size: 11px; }
    table, .case { font-size: 10px; }
    h2 { margin-top: 18px; }
    @page { size: A4; margin: 16mm; }
  }
</style>
</head>
<body>
<header>
<h1>{{title}}</h1>
<p class="soft">{{about}}</p>
{{#problem}}<p class="warn">{{problem}}</p>{{/problem}}
</header>

<h2>The case</h2>
<p>{{words}}</p>
<div class="case">
{{#sections}}<section><h3>{{name}}</h3><dl>{{#keys}}<dt title="{{meaning}}">{{key}}</dt><dd>{{value}}</dd>{{/keys}}</dl></section>
{{/sections}}
</div>

{{#pictures}}<h2>{{heading}}</h2>
{{#figures}}<figure><img alt="{{caption}}" src="{{data}}"><figcaption>{{caption}}</figcaption></figure>
{{/figures}}
{{/pictures}}

<h2>Gauges</h2>
<div class="wide">{{#gauges}}{{>table}}{{/gauges}}</div>

<h2>What to trust</h2>
<ul>{{#trust}}<li{{#warns}} class="warn"{{/warns}}>{{text}}</li>{{/trust}}</ul>
<div class="wide">{{#ledger}}{{>table}}{{/ledger}}</div>

{{#compared}}<h2>Compared with other runs</h2>
<p class="soft">{{about}}{{#same}}. The same at all times in all: {{same}}{{/same}}</p>
{{#chart}}<figure><img alt="gauges of all runs" src="{{chart}}"></figure>{{/chart}}
<div class="wide">{{#tables}}<h3>{{name}}</h3>{{>table}}{{/tables}}</div>
{{/compared}}

<p class="soft">Written by wavy {{version}} from {{folder}}.</p>
</body>
</html>
)page";

/// A table: headings, then rows.
inline constexpr const char* report_table = R"table(<table><tr>{{#headings}}<th>{{.}}</th>{{/headings}}</tr>
{{#rows}}<tr>{{#cells}}<td>{{.}}</td>{{/cells}}</tr>
{{/rows}}</table>)table";

}  // namespace wavy
