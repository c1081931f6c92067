<?php

namespace App\Files;

use Baggage\Core\Writing\Workbook\BookXml;
use Baggage\Core\Writing\Workbook\SheetXml;

/** Writes a workbook to a file: sheet by sheet into a folder of its own, packed at the end; no more than a line is held. */
final class Sheets
{
    /** @var list<string> */
    private array $names = [];

    /** @var list<array{SheetXml, resource}> */
    private array $open = [];

    private function __construct(private readonly string $folder)
    {
    }

    public static function beside(string $path): self
    {
        self::drop("$path.parts");
        mkdir("$path.parts", 0700, true);

        return new self("$path.parts");
    }

    /** @param  list<float>  $widths */
    public function begin(string $name, array $widths, int $frozen = 1): SheetXml
    {
        $this->names[] = $name;
        $xml = new SheetXml;
        $file = fopen($this->part(count($this->names)), 'w') ?: throw new \RuntimeException('The folder for files cannot be written.');
        $this->open[] = [$xml, $file];
        $this->write($xml->head($widths, $frozen));

        return $xml;
    }

    /** More of the sheet that was begun last. */
    public function write(string $xml): void
    {
        [, $file] = $this->open[count($this->open) - 1];
        if (fwrite($file, $xml) !== strlen($xml)) {
            throw new \RuntimeException('The file cannot be written: is the disk full?');
        }
    }

    /** @param  int  $columns  that can be filtered */
    public function end(int $columns = 0): void
    {
        [$xml, $file] = $this->open[count($this->open) - 1];
        $this->write($xml->foot($columns));
        fclose($file);
    }

    public function pack(string $path): void
    {
        $zip = new \ZipArchive;
        if ($zip->open($path, \ZipArchive::CREATE | \ZipArchive::OVERWRITE) !== true) {
            throw new \RuntimeException('The file cannot be written: is the disk full?');
        }
        foreach (BookXml::parts(BookXml::names($this->names)) as $name => $text) {
            $zip->addFromString($name, $text);
        }
        foreach (array_keys($this->names) as $i) {
            $zip->addFile($this->part($i + 1), 'xl/worksheets/sheet'.($i + 1).'.xml');
            $zip->setCompressionIndex($zip->numFiles - 1, \ZipArchive::CM_DEFLATE, 1);
        }
        $isPacked = $zip->close();
        self::drop($this->folder);
        if (! $isPacked) {
            throw new \RuntimeException('The file cannot be written: is the disk full?');
        }
        chmod($path, 0600);
    }

    private function part(int $n): string
    {
        return "$this->folder/sheet$n.xml";
    }

    private static function drop(string $folder): void
    {
        array_map(unlink(...), glob("$folder/*") ?: []);
        is_dir($folder) && rmdir($folder);
    }
}
