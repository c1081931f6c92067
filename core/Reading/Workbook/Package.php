<?php

namespace Baggage\Core\Reading\Workbook;

use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;

/** The parts of a workbook's package and how they name each other (ECMA-376 part 2, Open Packaging Conventions). */
final readonly class Package
{
    private function __construct(private Archive $archive, public string $main)
    {
    }

    /** @throws ReadingError when it has no workbook part */
    public static function of(Archive $archive): self
    {
        return new self($archive, self::mainPart($archive));
    }

    /** Where the main part lies, with a slash at the end; empty at the top. */
    public function folder(): string
    {
        return dirname($this->main) === '.' ? '' : dirname($this->main).'/';
    }

    public function has(string $part): bool
    {
        return in_array($part, $this->archive->names(), true);
    }

    /** @return iterable<string> */
    public function chunks(string $part): iterable
    {
        return $this->archive->chunks($part);
    }

    /** @return iterable<string>|null a part beside the main one; null where there is none */
    public function beside(string $name): ?iterable
    {
        return $this->has($this->folder().$name) ? $this->chunks($this->folder().$name) : null;
    }

    /** @throws ReadingError when the part is damaged, too large, or declares a document type */
    public function xml(string $part): \SimpleXMLElement
    {
        return self::read($this->archive, $part);
    }

    /** @return array<string, string> id of a relation of the main part → where it leads */
    public function relations(): array
    {
        $relations = $this->xml($this->folder().'_rels/'.basename($this->main).'.rels');
        $targets = [];
        foreach ($relations->xpath('//*[local-name()="Relationship"]') ?: [] as $relation) {
            $targets[(string) $relation['Id']] = (string) $relation['Target'];
        }

        return $targets;
    }

    /** Where a target named in the main part leads. */
    public function resolve(string $target): string
    {
        if (str_starts_with($target, '/')) {
            return substr($target, 1);
        }
        $path = $this->folder().$target;
        while (($shorter = preg_replace('~[^/]+/\.\./~', '', $path, 1)) !== null && $shorter !== $path) {
            $path = $shorter;
        }

        return $path;
    }

    private static function mainPart(Archive $archive): string
    {
        $names = $archive->names();
        if (in_array('_rels/.rels', $names, true)) {
            foreach (self::read($archive, '_rels/.rels')->xpath('//*[local-name()="Relationship"]') ?: [] as $relation) {
                if (str_ends_with((string) $relation['Type'], '/officeDocument')) {
                    return ltrim((string) $relation['Target'], '/');
                }
            }
        }
        if (in_array('xl/workbook.xml', $names, true)) {
            return 'xl/workbook.xml';
        }
        throw ReadingError::broken(
            'This is no .xlsx workbook: it has no workbook part. A .xlsb or password-protected file has to be saved as .xlsx first.',
        );
    }

    private static function read(Archive $archive, string $part): \SimpleXMLElement
    {
        $text = '';
        foreach ($archive->chunks($part) as $chunk) {
            $text .= $chunk;
            if (strlen($text) > Limits::now()->part) {
                throw ReadingError::broken(
                    "The part $part of the workbook is larger than ".Limits::size(Limits::now()->part).'.',
                );
            }
        }
        if (stripos($text, '<!DOCTYPE') !== false) {
            throw ReadingError::broken(
                "The part $part of the workbook declares a document type, which no workbook needs. It is not read.",
            );
        }
        $before = libxml_use_internal_errors(true);
        $xml = simplexml_load_string($text, \SimpleXMLElement::class, LIBXML_NONET);
        libxml_clear_errors();
        libxml_use_internal_errors($before);

        return $xml === false
            ? throw ReadingError::broken(
                "The part $part of the workbook is damaged. Save it again in the program it comes from.",
            )
            : $xml;
    }
}
