<?php

return [
    'default' => 'local',
    'disks' => [
        // Uploads are kept for the worker; no route serves them.
        'local' => ['driver' => 'local', 'root' => storage_path('app'), 'serve' => false, 'throw' => true],
    ],
];
