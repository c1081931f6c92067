<?php

namespace Baggage\Core\Reading\Nested;

use Baggage\Core\Reading\Limits;
use Baggage\Core\Reading\ReadingError;

/** The records of an XML document. Documents that declare entities are refused, so nothing outside is ever looked up. */
final class XmlRecords implements Records
{
    /** @var list<array{int, array<array-key, mixed>}> line and content of records read whole */
    private array $done = [];

    private bool $met = false;

    /** Where the record being read begins. */
    private ?int $from = null;

    /** @param  \Closure(): iterable<string>  $open  gives the bytes from the beginning */
    public function __construct(private readonly XmlFormat $format, private readonly \Closure $open)
    {
    }

    public function each(): \Generator
    {
        $parser = $this->parser();
        $this->done = [];
        $this->met = false;
        $this->from = null;
        $tail = '';
        foreach (($this->open)() as $chunk) {
            if (preg_match('/<!\s*(?:ENTITY|DOCTYPE[^>]*\[)/i', $tail.$chunk) === 1) {
                throw ReadingError::broken(
                    'The document declares entities of its own, and such documents are not read: '
                        .'they could pull in other files. Ask for the export without a DOCTYPE.',
                );
            }
            self::refuseLongTag($tail.$chunk);
            $tail = substr($tail.$chunk, -Limits::now()->tag - 1);
            $this->parse($parser, $chunk, false);
            $this->refuseLarge($parser);
            yield from $this->finished();
        }
        $this->parse($parser, '', true);
        yield from $this->finished();
        if (! $this->met) {
            throw ReadingError::broken("The document has no element \"{$this->format->records}\".");
        }
    }

    /** @return \Generator<int, array<array-key, mixed>> line → record, of those read whole */
    private function finished(): \Generator
    {
        $done = $this->done;
        $this->done = [];
        foreach ($done as [$line, $record]) {
            yield $line => $record;
        }
    }

    private function parser(): \XMLParser
    {
        $parser = xml_parser_create();
        xml_parser_set_option($parser, XML_OPTION_CASE_FOLDING, 0);
        $path = [];
        /** @var list<OpenElement> $open elements of the record being read, outermost first */
        $open = [];
        xml_set_element_handler(
            $parser,
            function ($p, string $name, array $attributes) use (&$path, &$open) {
                $path[] = $name;
                self::refuseDeep($p, count($path));
                self::refuseMany($p, count($attributes));
                if ($open !== [] || implode('/', $path) === $this->format->records) {
                    $this->met = true;
                    $this->from ??= xml_get_current_byte_index($p);
                    $open[] = new OpenElement(xml_get_current_line_number($p), $attributes);
                }
            },
            function ($p, string $name) use (&$path, &$open) {
                array_pop($path);
                count($open) === 1 ? $this->refuseLarge($p) : null;
                $this->close($name, array_pop($open), $open);
            },
        );
        xml_set_character_data_handler($parser, function ($p, string $text) use (&$open) {
            if ($open !== []) {
                $open[count($open) - 1]->text .= $text;
            }
        });

        return $parser;
    }

    /** @param  list<OpenElement>  $around  elements still open, outermost first */
    private function close(string $name, ?OpenElement $element, array $around): void
    {
        if ($element === null) {
            return;
        }
        $value = $element->value();
        if ($around === []) {
            $this->from = null;
            $this->done[] = [$element->line, is_array($value) ? $value : ['#text' => $value]];
        } else {
            $around[count($around) - 1]->children[$name][] = $value;
        }
    }

    private static function refuseDeep(\XMLParser $parser, int $depth): void
    {
        $deepest = Limits::now()->depth;
        if ($depth > $deepest) {
            $line = xml_get_current_line_number($parser);
            throw ReadingError::broken("Line $line: elements are nested more than $deepest deep.");
        }
    }

    private static function refuseMany(\XMLParser $parser, int $attributes): void
    {
        $most = Limits::now()->attributes;
        if ($attributes > $most) {
            $line = xml_get_current_line_number($parser);
            throw ReadingError::broken(
                "Line $line: an element has ".number_format($attributes).' attributes; '.number_format($most).' can be taken.',
            );
        }
    }

    /** @param  \XMLParser  $parser  at the end of what has come so far */
    private function refuseLarge(\XMLParser $parser): void
    {
        $most = Limits::now()->record;
        if ($this->from !== null && xml_get_current_byte_index($parser) - $this->from > $most) {
            throw ReadingError::broken(
                'A record is larger than '.Limits::size($most).". Is \"{$this->format->records}\" the path to the records?",
            );
        }
    }

    /** Parsers compare every attribute of a tag with every other. */
    private static function refuseLongTag(string $xml): void
    {
        $longest = Limits::now()->tag;
        if (preg_match('/<[^<>!?][^<>]{'.($longest - 1).'}/', $xml) === 1) {
            throw ReadingError::broken('A tag with its attributes is longer than '.number_format($longest).' bytes. It is not read.');
        }
    }

    private function parse(\XMLParser $parser, string $chunk, bool $last): void
    {
        if (xml_parse($parser, $chunk, $last) !== 1) {
            throw ReadingError::broken(
                'Line '.number_format(xml_get_current_line_number($parser)).': this is no well-formed XML ('
                    .lcfirst((string) xml_error_string(xml_get_error_code($parser))).').'
                    .($last ? ' The file may be cut off.' : ''),
            );
        }
    }

    /**
     * Paths of elements that repeat below one parent and hold something, outermost first, as far as the sample goes.
     *
     * @return list<string>
     *
     * @throws ReadingError
     */
    public static function repeated(string $sample): array
    {
        $parser = xml_parser_create();
        xml_parser_set_option($parser, XML_OPTION_CASE_FOLDING, 0);
        $path = [];
        $times = [];
        xml_set_element_handler(
            $parser,
            function ($p, string $name) use (&$path, &$times) {
                $path[] = $name;
                self::refuseDeep($p, count($path));
                $at = implode('/', $path);
                $times[$at] = ($times[$at] ?? 0) + 1;
            },
            function () use (&$path) {
                array_pop($path);
            },
        );
        self::refuseLongTag($sample);
        xml_parse($parser, $sample);
        $found = array_keys(array_filter($times, fn ($n) => $n > 1));
        // An element inside a repeated one is part of its record.
        $found = array_values(
            array_filter(
                $found,
                fn ($f) => array_filter($found, fn ($o) => $o !== $f && str_starts_with($f, "$o/")) === [],
            ),
        );
        if ($found === [] && $times !== []) {
            $found = [array_keys($times)[min(1, count($times) - 1)]];
        }

        return $found;
    }
}
