// A transmitter: eight bits between a start and a stop, from a memory of text.
module top(input clk, input go, output reg txd, output busy);
  reg [7:0] text [0:7];
  initial begin
    text[0] = "L"; text[1] = "o"; text[2] = "c"; text[3] = "k"; text[4] = " "; text[5] = "4"; text[6] = 13; text[7] = 10;
  end
  reg [9:0] bits = 10'h3ff;
  reg [3:0] left = 0;
  reg [2:0] at = 0;
  reg [9:0] baud = 0;
  reg sending = 0;
  assign busy = sending;
  initial txd = 1;
  always @(posedge clk) begin
    txd <= bits[0] | ~sending;
    if (!sending) begin
      if (go) begin sending <= 1; at <= 0; bits <= {1'b1, text[0], 1'b0}; left <= 10; baud <= 867; end
    end else if (baud != 0) baud <= baud - 1'b1;
    else begin
      baud <= 867;
      bits <= {1'b1, bits[9:1]};
      left <= left - 1'b1;
      if (left == 1) begin
        at <= at + 1'b1;
        left <= 10;
        bits <= {1'b1, text[at + 3'd1], 1'b0};
        if (at == 7) sending <= 0;
      end
    end
  end
endmodule
