@php($kind = $format::kind())
@php($field = fn(string $name) => "reader[$name]")
@if ($kind === 'delimited')
  <div class="stack">
    <label for="delimiter">Delimiter</label><input id="delimiter" name="reader[delimiter]"
      value="{{ [',' => 'comma', ';' => 'semicolon', '|' => 'bar'][$format->delimiter] ?? $format->delimiterName() }}"
      list="delimiters" autocomplete="off"><datalist id="delimiters">
      <option>comma</option>
      <option>semicolon</option>
      <option>tab</option>
      <option>bar</option>
    </datalist><small class="quiet">{{ $reasons['delimiter'] ?? '' }}</small>
  </div>
  <div class="stack"><label for="quote">Quote</label><input id="quote" name="reader[quote]"
      value="{{ $format->quote }}" maxlength="1"><small class="quiet">around cells; empty for none</small></div>
  <div class="stack"><label for="escape">Quotes inside a cell</label><select id="escape" name="reader[escape]">
      <option value="doubled" @selected(!$format->backslash)>are doubled</option>
      <option value="backslash" @selected($format->backslash)>have a backslash</option>
    </select><small class="quiet">as its program writes them</small></div>
@elseif ($kind === 'fixed_width')
  <div class="stack span-2"><label for="layout">Columns, first and last character</label>
    <textarea id="layout" name="reader[layout]" rows="6">{{ $format->layout() }}</textarea>
    <small class="quiet">{{ $reasons['layout'] ?? '' }}</small>
  </div>
  <div class="stack"><label for="keep_blanks">Blanks that fill up</label><select id="keep_blanks"
      name="reader[keep_blanks]">
      <option value="">are removed</option>
      <option value="1" @selected($format->keepBlanks)>stay</option>
    </select><small class="quiet">at both ends of a cell</small></div>
@elseif ($kind === 'json' || $kind === 'xml')
  @if ($kind === 'json')
    <div class="stack"><label for="lines">Records</label><select id="lines" name="reader[lines]">
        <option value="">in one document</option>
        <option value="1" @selected($format->lines)>one in each line</option>
      </select><small class="quiet">{{ $reasons['records'] ?? '' }}</small></div>
  @endif
  <div class="stack"><label for="records">Path to the records</label><input id="records" name="reader[records]"
      value="{{ $format->records }}"><small
      class="quiet">{{ $kind === 'json' ? 'keys with dots; empty for all' : $reasons['records'] ?? 'elements with slashes' }}</small>
  </div>
  <div class="stack"><label for="list">List inside each record</label><input id="list" name="reader[list]"
      value="{{ $format->list }}"><small
      class="quiet">{{ $reasons['list'] ?? 'empty: the records are the rows' }}</small></div>
  <div class="stack"><label for="carry">Columns its rows carry</label><input id="carry" name="reader[carry]"
      value="{{ implode(', ', $format->carry) }}"><small
      class="quiet">{{ $reasons['carry'] ?? 'of the record, for a list' }}</small></div>
@elseif ($kind === 'http')
  <input type="hidden" name="reader[connection]" value="{{ $format->connection }}">
  <div class="stack span-2"><label for="path">Path below the address</label><input id="path"
      name="reader[path]" value="{{ $format->path }}" placeholder="tickets?size=100"><small class="quiet">with its
      query</small></div>
  <div class="stack"><label for="records">Path to the records</label><input id="records" name="reader[records]"
      value="{{ $format->records }}"><small class="quiet">keys with dots; empty for the whole answer</small></div>
  <div class="stack"><label for="list">List inside each record</label><input id="list" name="reader[list]"
      value="{{ $format->list }}"><small class="quiet">empty: the records are the rows</small></div>
  <div class="stack"><label for="carry">Columns its rows carry</label><input id="carry" name="reader[carry]"
      value="{{ implode(', ', $format->carry) }}"><small class="quiet">of the record, for a list</small></div>
  <div class="stack"><label for="paging">Pages follow</label><select id="paging" name="reader[paging]">
      @foreach ($say::PAGING as $value => $label)
        <option value="{{ $value }}" @selected($format->paging->kind === $value)>{{ $label }}</option>
      @endforeach
    </select>
    <small class="quiet">one to the next</small>
  </div>
  <div class="stack"><label for="page_parameter">Parameter for the page</label><input id="page_parameter"
      name="reader[page_parameter]" value="{{ $format->paging->parameter }}"><small class="quiet">for number and
      value</small></div>
  <div class="stack"><label for="next">Place of the next value</label><input id="next" name="reader[next]"
      value="{{ $format->paging->next }}"><small class="quiet">keys with dots</small></div>
  <div class="stack"><label for="first_page">Number of the first page</label><input id="first_page"
      name="reader[first_page]" type="number" value="{{ $format->paging->first }}"><small class="quiet">0 or
      1</small></div>
@elseif ($kind === 'workbook')
  <div class="stack"><label for="sheet">Sheet</label><input id="sheet" name="reader[sheet]"
      value="{{ $format->sheet }}"><small class="quiet">{{ $reasons['sheet'] ?? '' }}</small></div>
  <div class="stack"><label for="cells">Cells are taken</label><select id="cells" name="reader[cells]">
      @foreach (['plain' => 'plain: ISO dates, numbers', 'seen' => 'as a person sees them', 'stored' => 'as stored'] as $value => $label)
        <option value="{{ $value }}" @selected($format->view->value === $value)>{{ $label }}</option>
      @endforeach
    </select>
    <small class="quiet">unless stated beside</small>
  </div>
  @foreach (['seen' => 'As seen', 'stored' => 'As stored', 'plain' => 'Plain'] as $view => $label)
    @continue($view === $format->view->value)
    <div class="stack"><label for="{{ $view }}">{{ $label }}</label><input
        id="{{ $view }}" name="reader[{{ $view }}]"
        value="{{ implode(', ', array_keys(array_filter($format->views, fn($v) => $v->value === $view))) }}"><small
        class="quiet">headers, with commas</small></div>
  @endforeach
@elseif ($kind === 'dbase')
  <div class="stack"><label for="deleted">Deleted records</label><select id="deleted" name="reader[deleted]">
      <option value="">are left out</option>
      <option value="1" @selected($format->deleted)>are read too</option>
    </select><small class="quiet">the table only marks them</small></div>
@elseif ($kind === 'database')
  @if ($format->connection !== '')
    <input type="hidden" name="reader[connection]" value="{{ $format->connection }}">
  @endif
  <div class="stack"><label for="table">Table or view</label><input id="table" name="reader[table]"
      value="{{ $format->table }}"><small
      class="quiet">{{ $reasons['table'] ?? 'empty where a SELECT is given' }}</small></div>
  <div class="stack"><label for="only">Only these columns</label><input id="only" name="reader[only]"
      value="{{ implode(', ', $format->columns) }}"><small class="quiet">with commas; empty for all</small></div>
  @foreach ([...$format->where, null] as $i => $filter)
    @break($i > 3)
    <div class="stack span-2"><label
        for="where-{{ $i }}">{{ $i === 0 ? 'Only rows where' : 'and' }}</label><span
        class="row nowrap"><input id="where-{{ $i }}" name="reader[where][{{ $i }}][column]"
          value="{{ $filter?->column }}" placeholder="column" size="12"><select
          name="reader[where][{{ $i }}][test]" aria-label="Test {{ $i + 1 }}">
          @foreach ($say::FILTERS as $test)
            <option @selected($filter?->test === $test)>{{ $test }}</option>
          @endforeach
        </select>
        <input name="reader[where][{{ $i }}][value]" value="{{ $filter?->value }}" placeholder="value"
          aria-label="Value {{ $i + 1 }}" size="12"></span><small class="quiet">a value, or :name of a
        parameter</small></div>
  @endforeach
  <div class="stack span-2"><label for="sql">Or a SELECT</label>
    <textarea id="sql" name="reader[sql]" rows="3">{{ $format->sql }}</textarea>
    <small class="quiet">parameters as :name</small>
  </div>
  <div class="stack span-2"><label for="parameters">Parameters, one a line</label>
    <textarea id="parameters" name="reader[parameters_text]" rows="3"
      placeholder="since = highest CHANGED, first 2000-01-01">{{ $say->parameters($format->parameters) }}</textarea>
    <small class="quiet">name = a value, today, month_start, or highest COLUMN, first
      VALUE</small>
  </div>
@endif
@if (in_array($kind, ['delimited', 'fixed_width', 'dbase', 'database'], true))
  <div class="stack"><label for="encoding">Encoding</label><select id="encoding" name="reader[encoding]">
      @if ($kind === 'dbase')
        <option value="">as the file says</option>
        @endif @foreach ($encodings as $name)
          <option @selected($format->encoding?->value === $name)>{{ $name }}</option>
        @endforeach
    </select><small
      class="quiet">{{ $reasons['encoding'] ?? ($kind === 'database' ? 'of text kept as bytes' : '') }}</small></div>
@endif
@if (in_array($kind, ['delimited', 'fixed_width', 'workbook'], true))
  <div class="stack"><label
      for="header">{{ $kind === 'workbook' ? 'First row of the table' : 'First line' }}</label><select
      id="header" name="reader[header]">
      <option value="1" @selected($layout->header)>is the header</option>
      <option value="0" @selected(!$layout->header)>is data</option>
    </select><small class="quiet">{{ $reasons['header'] ?? '' }}</small></div>
  <div class="stack"><label for="skip">{{ $kind === 'workbook' ? 'Rows' : 'Lines' }} to skip above</label><input
      id="skip" name="reader[skip]" type="number" min="0" value="{{ $layout->skip }}"><small
      class="quiet">{{ $reasons['skip'] ?? 'titles' }}</small></div>
  <div class="stack"><label for="foot">Rows at the foot</label><input id="foot" name="reader[foot]"
      type="number" min="0" value="{{ $layout->foot }}"><small class="quiet">totals, that are no
      data</small></div>
  @if ($kind !== 'fixed_width')
    <div class="stack"><label for="columns">Range of columns</label><input id="columns" name="reader[columns]"
        value="{{ $layout->toArray()['columns'] ?? '' }}" placeholder="all"><small class="quiet">B-F, or
        2-6</small></div>
  @endif
  <div class="stack"><label for="first_row">First row taken</label><input id="first_row" name="reader[first_row]"
      type="number" min="1" value="{{ $layout->start }}"><small class="quiet">below the header</small>
  </div>
  <div class="stack"><label for="count">Rows taken at most</label><input id="count" name="reader[rows]"
      type="number" min="1" value="{{ $layout->count }}" placeholder="all"><small class="quiet">the
      others are counted</small></div>
  @if ($kind !== 'workbook')
    <div class="stack"><label for="comment">Comment lines begin with</label><input id="comment"
        name="reader[comment]" value="{{ $layout->comment }}" maxlength="8"><small class="quiet">and are no
        rows</small></div>
  @endif
@endif
@if ($kind === 'delimited')
  <div class="stack"><label for="pad_short">Rows with too few cells</label><select id="pad_short"
      name="reader[pad_short]">
      <option value="0" @selected(!($settings->padShort ?? false))>are rejected</option>
      <option value="1" @selected($settings->padShort ?? false)>are filled with blanks</option>
    </select><small class="quiet">they are kept as read</small></div>
@endif
