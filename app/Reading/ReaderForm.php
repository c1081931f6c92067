<?php

namespace App\Reading;

use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\ReadingError;

/** Reader settings as a form sends them. */
final class ReaderForm
{
    /**
     * @param  array<array-key, mixed>  $reader
     *
     * @throws \InvalidArgumentException|ReadingError
     */
    public static function settings(array $reader): ReaderSettings
    {
        foreach ($reader as $name => $setting) {
            if (is_array($setting) && $name !== 'where') {
                throw new \InvalidArgumentException("The reader's setting \"$name\" is one text, not a list.");
            }
        }
        // An empty quote means none; any other setting left empty means the usual.
        $quote = array_key_exists('quote', $reader) ? (string) $reader['quote'] : null;
        $reader = array_filter($reader, fn ($v) => $v !== null && $v !== '');
        if (isset($reader['where'])) {
            $reader['where'] = array_values(
                array_filter(
                    (array) $reader['where'],
                    fn ($f) => is_array($f)
                        && ! is_array($f['column'] ?? '')
                        && trim((string) ($f['column'] ?? '')) !== '',
                ),
            );
        }
        if (isset($reader['parameters_text'])) {
            $reader['parameters'] = ParameterText::parse((string) $reader['parameters_text']);
            unset($reader['parameters_text']);
        }

        return Formats::settings($quote === null ? $reader : ['quote' => $quote] + $reader);
    }
}
