<?php

// Words of files that go to the client. Each language has a file of its own beside this one, with the same keys; "wrong" may say what is
// wrong by the code of the cause, where it is left out the cause's own words stand.

return [
    'language' => 'English',
    'row' => 'Row',
    'stage' => 'Stage',
    'field' => 'Field',
    'value' => 'Value',
    'wrong_head' => 'What is wrong',
    'remark' => 'Remark',
    'reference' => 'Reference',
    'outcome' => 'Outcome',
    'new_key' => 'New key',
    'message' => 'Message',
    'pass' => 'Pass',
    'column' => 'Column :n',
    'codes' => 'Codes',
    'codes_head' => ['Column', 'Value', 'Becomes'],
    'about' => 'About this file',
    'about_text' => [
        'These rows could not be taken over as they are: the column ":wrong" says why.',
        'Correct the cells of your own columns, to the left of ":row". Nothing else has to be filled in; ":remark" is for what we should know.',
        'The order of the rows does not matter. A row you delete here stays as it was; a row you add belongs in your next delivery.',
        'Leave the column ":reference" as it is: by it each row is known again.',
        'Where only certain values are allowed, the cell offers them; the sheet ":codes" lists them.',
    ],
    'stages' => [
        'reading' => 'reading',
        'scope' => 'scope',
        'mapping' => 'mapping',
        'checks' => 'checks',
        'matching' => 'matching',
        'parents' => 'parents',
        'writing' => 'writing',
    ],
    'outcomes' => [
        'loaded' => 'loaded',
        'updated' => 'updated',
        'unchanged' => 'unchanged',
        'merged' => 'merged',
        'removed' => 'removed',
        'rejected' => 'rejected',
        'held' => 'held',
        'waived' => 'left behind',
        'excluded' => 'left out',
        'pending' => 'not yet loaded',
    ],
    'wrong' => [
        'no_new_value' => 'This value has no counterpart in the new application yet',
        'code_rejected' => 'This value is not to be taken over',
        'duplicate_key' => 'Another row has the same key',
        'no_legacy_key' => 'The row has no key',
        'orphan' => 'What this refers to is not in the data',
        'parent_left' => 'What this refers to was left behind',
    ],
];
