<?php

namespace App\Files;

use App\Models\Audit;
use App\Models\ClientFile;
use App\Models\Work;
use App\Queueing\Kind;
use App\Queueing\WorkJob;
use App\Support\Amount;
use Baggage\Core\Rows\RowSet;
use Baggage\Core\Writing\Guarded;
use Baggage\Core\Writing\Reference;
use Baggage\Core\Writing\Workbook\CellStyle;
use Baggage\Core\Writing\Workbook\SheetXml;
use Illuminate\Support\Facades\DB;

/** Writes the rejected rows a file is about, for the client. One whose worker was killed is written anew. */
final class WriteFile extends WorkJob
{
    /** Rows a sheet has room for, besides its head (as programs that open such files have it, value from memory). */
    private const ROWS = 1_048_575;

    private const WIDTHS = ['row' => 9.0, 'stage' => 11.0, 'field' => 18.0, 'value' => 24.0, 'wrong' => 52.0, 'remark' => 36.0,
        'reference' => 24.0];

    public function kind(): Kind
    {
        return Kind::Rows;
    }

    protected function done(Work $work): array
    {
        $file = ClientFile::query()->findOrFail($work->given['of']);
        $n = self::write($file, $work);
        Audit::note($file->migration_id, 'wrote a file of rejected rows', ['file' => $file->title, 'code' => $file->code, 'rows' => $n]);

        return ['told' => Amount::of($n, 'row')." written: $file->title.", 'total' => $n, 'done' => $n];
    }

    protected function brokeOff(Work $work): string
    {
        return 'Writing the file ended';
    }

    /** @return int rows */
    public static function write(ClientFile $file, ?Work $work = null): int
    {
        $path = $file->path();
        is_dir(dirname($path)) || mkdir(dirname($path), 0700, true);
        DB::table('file_loads')->where('file_id', $file->id)->delete();
        $rows = RejectRows::of($file);
        $reached = function (int $n) use ($work): void {
            $work?->reached($n);
        };
        $made = "$path.new";
        $n = $file->format === 'xlsx' ? self::workbook($file, $rows, $made, $reached) : self::text($file, $rows, $made, $reached);
        rename($made, $path);
        $file->update(['row_count' => $n, 'elsewhere' => FileBook::elsewhere($file)]);

        return $n;
    }

    /** @param  \Closure(int): void  $reached */
    private static function workbook(ClientFile $file, RejectRows $rows, string $path, \Closure $reached): int
    {
        [$words, $code] = [Words::of($file->words), $file->code];
        $choices = new Choices($rows->loads, $rows->takes);
        $sheets = Sheets::beside($path);
        $sheet = null;
        $n = $at = $width = 0;
        $has = [];
        foreach ($rows->pages() as $load => $page) {
            foreach ($page as $row => [$cells, $cause]) {
                if ($sheet === null || $at !== $load || $sheet->rows() > self::ROWS) {
                    $sheet === null ?: $sheets->end($width);
                    [$sheet, $at] = [self::begin($sheets, $words, $rows, $load), $load];
                    $width = count($rows->takes[$load]->headers()) + count(self::WIDTHS);
                }
                $sheets->write(self::line($sheet, $choices, $words, $code, $load, $row, $cells, $cause, $width));
                $n++;
            }
            $has[$load] ??= new RowSet;
            array_map($has[$load]->add(...), array_keys($page));
            $reached($n);
        }
        $sheet === null ?: $sheets->end($width);
        self::codes($sheets, $choices, $words);
        self::about($sheets, $words);
        $sheets->pack($path);
        self::note($file, $rows, $has);

        return $n;
    }

    private static function begin(Sheets $sheets, Words $words, RejectRows $rows, int $load): SheetXml
    {
        $headers = $rows->takes[$load]->headers();
        $widths = array_map(fn (string $h) => (float) min(40, max(9, mb_strlen($h) + 3)), $headers);
        $name = $rows->loads[$load]->name;
        // Lists of values are looked for by the names of our own sheets.
        $isOurs = in_array(mb_strtolower($name), [mb_strtolower($words->say('codes')), mb_strtolower($words->say('about'))], true);
        $sheet = $sheets->begin($isOurs ? "$name ($load)" : $name, [...$widths, ...array_values(self::WIDTHS)]);
        $styles = array_fill(0, count($headers), CellStyle::Head)
            + array_fill(count($headers), count(self::WIDTHS), CellStyle::AddedHead);
        $sheets->write($sheet->row([...$headers, ...$words->added()], $styles));

        return $sheet;
    }

    /** @param  list<string|null>  $cells */
    private static function line(
        SheetXml $sheet,
        Choices $choices,
        Words $words,
        string $file,
        int $load,
        int $row,
        array $cells,
        \stdClass $cause,
        int $width,
    ): string {
        $own = $width - count(self::WIDTHS);
        [$positions, $lines] = $choices->of($load, (string) ($cause->code ?? ''), $cause->field ?? null);
        $styles = [];
        foreach ($positions as $position) {
            $styles[$position] = CellStyle::Wrong;
        }
        $all = array_map(strval(...), self::padded($cells, $own));
        foreach ([...self::added($words, $row, $cause), Reference::write($file, $load, $row, $all)] as $i => $cell) {
            $all[] = $cell;
            $styles[$own + $i] = CellStyle::Added;
        }
        $xml = $sheet->row($all, $styles);
        if ($lines !== null) {
            // Below the head of the sheet of codes.
            $codes = str_replace("'", "''", $words->say('codes'));
            $sheet->choice($positions[0], sprintf("'%s'!\$B\$%d:\$B\$%d", $codes, $lines[0] + 2, $lines[1] + 2));
        }

        return $xml;
    }

    /** @return list<string> what stands before the reference */
    private static function added(Words $words, int $row, \stdClass $cause): array
    {
        // Of a cause once.
        $cause->said ??= self::said($words, $cause);

        return [(string) $row, ...$cause->said];
    }

    /** @return list<string> what stands between the row and its reference */
    private static function said(Words $words, \stdClass $cause): array
    {
        return [
            $words->stage((string) ($cause->stage ?? '')),
            (string) ($cause->field ?? ''),
            (string) ($cause->value ?? ''),
            $words->wrong((string) ($cause->code ?? ''), (string) ($cause->message ?? '')),
            '',
        ];
    }

    private static function codes(Sheets $sheets, Choices $choices, Words $words): void
    {
        if ($choices->lines === []) {
            return;
        }
        $sheet = $sheets->begin($words->say('codes'), [24.0, 30.0, 30.0]);
        $sheets->write($sheet->row($words->codesHead(), array_fill(0, 3, CellStyle::Head)));
        foreach ($choices->lines as $line) {
            $sheets->write($sheet->row($line));
        }
        $sheets->end(3);
    }

    private static function about(Sheets $sheets, Words $words): void
    {
        $sheet = $sheets->begin($words->say('about'), [110.0], 0);
        foreach ($words->about() as $line) {
            $sheets->write($sheet->row([$line]));
        }
        $sheets->end();
    }

    /**
     * RFC 4180, in UTF-8 with the mark by which programs know it.
     *
     * @param  \Closure(int): void  $reached
     */
    private static function text(ClientFile $file, RejectRows $rows, string $path, \Closure $reached): int
    {
        [$words, $code] = [Words::of($file->words), $file->code];
        $to = fopen($path, 'w') ?: throw new \RuntimeException('The folder for files cannot be written.');
        chmod($path, 0600);
        $put = function (string $text) use ($to): void {
            if (fwrite($to, $text) !== strlen($text)) {
                throw new \RuntimeException('The file cannot be written: is the disk full?');
            }
        };
        $n = 0;
        $has = [];
        foreach ($rows->pages() as $load => $page) {
            $headers = $rows->takes[$load]->headers();
            $width = count($headers);
            $text = $n > 0 ? '' : "\u{FEFF}".Guarded::line([...$headers, ...$words->added()])."\r\n";
            foreach ($page as $row => [$cells, $cause]) {
                // Of a cause once.
                $cause->cells ??= Guarded::line(self::said($words, $cause));
                $cells = count($cells) === $width ? $cells : self::padded($cells, $width);
                $text .= Guarded::line($cells).",$row,$cause->cells,".Reference::write($code, $load, $row, $cells)."\r\n";
            }
            $put($text);
            $n += count($page);
            $has[$load] ??= new RowSet;
            array_map($has[$load]->add(...), array_keys($page));
            $reached($n);
        }
        fclose($to);
        self::note($file, $rows, $has);

        return $n;
    }

    /**
     * @param  list<string|null>  $cells
     * @return list<string|null>
     */
    private static function padded(array $cells, int $to): array
    {
        return array_slice(array_pad($cells, $to, ''), 0, $to);
    }

    /** @param  array<int, RowSet>  $has  load → its rows in the file */
    private static function note(ClientFile $file, RejectRows $rows, array $has): void
    {
        foreach ($has as $load => $set) {
            DB::table('file_loads')->insert([
                'file_id' => $file->id, 'load_id' => $load, 'take_id' => $rows->takes[$load]->id, 'row_set' => $set->packed(),
            ]);
        }
    }
}
