<?php

namespace App\View\Tables;

use App\Catalogue\CodeValue;
use App\Models\CodeCrosswalk;
use Baggage\Core\Crosswalks\Otherwise;
use Illuminate\Http\Request;

/** Tables of Crosswalks. */
final class CodeTables
{
    /** Codes shown and kept at once. */
    public const CODES = 100;

    /**
     * @param  list<CodeValue>  $values
     * @param  array<array-key, string|null>  $refused  old value → why the target would not take its new one
     */
    public static function codes(Request $request, CodeCrosswalk $crosswalk, array $values, array $refused): Table
    {
        $words = ['' => '', 'value' => 'the new value', 'empty' => 'empty', 'reject' => 'a rejected row'];

        return Table::of($request, 'codes', [
            Column::text('old', 'Old value', fn (CodeValue $v) => $v->old),
            Column::number('rows', 'Rows', fn (CodeValue $v) => $v->rows),
            Column::text('is', 'Becomes', fn (CodeValue $v) => $words[$v->decision()]),
            Column::text('new', 'New value', fn (CodeValue $v) => $v->new),
            Column::text('note', 'Note', fn (CodeValue $v) => $v->note),
            Column::text('state', 'State', fn (CodeValue $v) => ($refused[$v->old] ?? null) ?? self::state($crosswalk, $v)),
        ], $values, self::CODES);
    }

    /** What there is to say about a code besides. */
    public static function state(CodeCrosswalk $crosswalk, CodeValue $value): string
    {
        return match (true) {
            ! $value->mapped => $crosswalk->otherwise === Otherwise::Reject ? 'unmapped' : 'as stated below',
            $value->rows === 0 => 'not used by any row',
            default => '',
        };
    }
}
