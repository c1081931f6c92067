<?php

namespace Baggage\Core\Reading;

/** Remarks that any text file can give rise to. */
final class TextRemarks
{
    /** @return list<Remark> */
    public static function of(?Decoder $decoder, bool $endsInLineBreak): array
    {
        $remarks = [];
        if ($decoder !== null && $decoder->switched->count > 0) {
            $lines = $decoder->switched;
            $remarks[] = new Remark(
                'mixed_encoding',
                Remark::say($lines->count, 'line is not UTF-8 and was', 'lines are not UTF-8 and were')
                    .' read as Windows-1252, beginning with line '.number_format($lines->rows[0]).'.',
                $lines->count,
                $lines->rows,
                null,
                true,
            );
        }
        if (! $endsInLineBreak) {
            $remarks[] = new Remark(
                'cut_off',
                'The last line does not end in a line break: compare it with the source, it may be cut off.',
                1,
            );
        }

        return $remarks;
    }
}
