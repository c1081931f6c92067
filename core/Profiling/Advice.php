<?php

namespace Baggage\Core\Profiling;

/** What can be done about a finding. */
final class Advice
{
    private const BY_CODE = [
        'stray_spaces' => 'trim() or squeeze() in the rule takes them away; keys are compared trimmed unless their load says otherwise.',
        'mojibake' => 'mend() in the rule repairs what can be repaired; or ask for an export in UTF-8.',
        'control_characters' => 'Copied in from elsewhere: replace() them in the rule, or have them removed at source.',
        'placeholder' => 'nothing_if() in the rule makes them empty.',
        'scientific' => 'The digits cannot be brought back from this file: ask for the column as text.',
        'two_digit_year' => 'date() reads them with the format letter y; state which century they belong to.',
        'sentinel_date' => 'nothing_if() in the rule makes them empty before date() reads them.',
        'impossible_date' => 'They are rejected when they load; correct them there, or at source.',
        'ambiguous_date' => 'Ask the client for one date they know, and state the format in the rule.',
        'mixed_types' => 'They are rejected where the target wants the type; decide in the rule, or have them corrected.',
        'lost_zeros' => 'pad() in the rule or keys compared as numbers bring them back together; best is an export as text.',
        'repeated_header' => 'A scope on the load leaves them out with a reason.',
        'total_row' => 'A scope on the load leaves them out, or the reader takes off rows at the foot.',
        'blank_record' => 'A scope on the load leaves them out with a reason.',
        'blank_rows' => 'Nothing: they were never rows.',
        'blank_lines' => 'Nothing: they were never rows.',
        'duplicate_keys' => 'The later rows are rejected when they load; have them given keys of their own, or merge them by a match rule.',
        'ragged_rows' => 'Check the delimiter and quotes; short rows can be filled with blanks by the reader.',
        'cut_off' => 'Compare the number of rows with the source\'s own, and ask for the export again if it falls short.',
        'round_count' => 'Ask how many rows the source has, and for an export without a limit if it is more.',
        'formulas' => 'Open the workbook, let it compute, save it, and compare a few results.',
        'error_cells' => 'Have the formulas mended, or make the cells empty with nothing_if().',
        'merged_cells' => 'Unmerge them where they stand among the data, so that every row has its value.',
        'hidden_rows' => 'Ask whether they are meant to be migrated; a scope leaves them out.',
        'hidden_columns' => 'Ask whether they are meant to be migrated; leave them behind with a reason.',
        'hidden_sheet' => 'Ask whether it is meant to be migrated.',
        'mixed_encoding' => 'Look at a few of these lines; if letters are wrong there, ask for one encoding.',
        'nested_list' => 'Upload the file again and choose the list as a table of its own.',
        'moving_source' => 'Freeze it again when nobody works in it, or read a copy.',
        'header' => 'The names stand for the columns in rules; rename them at source if they mislead.',
        'code_page' => 'Choose the code page in the reader if letters are wrong.',
        'memo' => 'Ask for the file with the memo texts, or an export as text.',
        'bytes' => 'Pictures or packed data: leave the column behind, or ask for it as files.',
        'short_lines' => 'Check the layout; the last columns are blank in these rows.',
        'long_lines' => 'Extend the layout, or have the lines looked at.',
    ];

    public static function on(string $code): string
    {
        return self::BY_CODE[$code] ?? '';
    }
}
